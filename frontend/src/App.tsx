import { useQuery } from "@tanstack/react-query";
import { Navigate, Route, Routes } from "react-router";
import { sessionQuery } from "./api/queries";
import { Frame } from "./features/frame/Frame";
import { OfficePage } from "./features/office/OfficePage";
import { ReceiptPage } from "./features/receipts/ReceiptPage";
import { ReceiptsPage } from "./features/receipts/ReceiptsPage";
import { SignInPage } from "./features/session/SignInPage";
import { useSignedIn } from "./features/session/useSignedIn";
import { WeekPage } from "./features/week/WeekPage";
import { ProblemNotice } from "./ui/Notice";
import { Reading } from "./ui/Page";

export function App() {
  const session = useQuery(sessionQuery);
  const signedIn = useSignedIn(session.data);
  if (session.isPending) return <Centred>{<Reading what="the college's terms" />}</Centred>;
  if (session.isError && !session.data)
    return (
      <Centred>
        <ProblemNotice problem={session.error} />
      </Centred>
    );
  if (!signedIn) return <SignInPage session={session.data} />;
  if (signedIn.person.role !== "student") return <OfficePage session={signedIn} />;
  const home = `/${session.data.usual_term}/week`;
  return (
    <Routes>
      <Route path="/:term" element={<Frame session={signedIn} />}>
        <Route index element={<Navigate to="week" replace />} />
        <Route path="week" element={<WeekPage session={signedIn} />} />
        <Route path="cart" element={<WeekPage session={signedIn} />} />
        <Route path="receipts" element={<ReceiptsPage session={signedIn} />} />
        <Route path="receipts/:id" element={<ReceiptPage session={signedIn} />} />
        <Route path="*" element={<Navigate to={home} replace />} />
      </Route>
      <Route path="*" element={<Navigate to={home} replace />} />
    </Routes>
  );
}

function Centred({ children }: { children: React.ReactNode }) {
  return <main className="mx-auto max-w-md p-8">{children}</main>;
}

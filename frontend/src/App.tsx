import { useQuery } from "@tanstack/react-query";
import { Navigate, Route, Routes } from "react-router";
import { sessionQuery } from "./api/queries";
import { AdviseesPage } from "./features/advisor/AdviseesPage";
import { CashierPage } from "./features/cashier/CashierPage";
import { ClearancePage } from "./features/clearance/ClearancePage";
import { FindPage } from "./features/find/FindPage";
import { Frame } from "./features/frame/Frame";
import { PublicFrame } from "./features/frame/PublicFrame";
import { TaughtPage } from "./features/instructor/TaughtPage";
import { TaughtSectionPage } from "./features/instructor/TaughtSectionPage";
import { OfficeFrame } from "./features/office/OfficeFrame";
import { RefusedMailPage } from "./features/office/RefusedMailPage";
import { ReceiptPage } from "./features/receipts/ReceiptPage";
import { ReceiptsPage } from "./features/receipts/ReceiptsPage";
import { SignInPage } from "./features/session/SignInPage";
import { type Session, type SignedIn, useSignedIn } from "./features/session/useSignedIn";
import { MessagesPage } from "./features/waitlists/MessagesPage";
import { WaitlistsPage } from "./features/waitlists/WaitlistsPage";
import { PrintPage } from "./features/week/PrintPage";
import { SharedPage } from "./features/week/SharedPage";
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
  if (!signedIn)
    return (
      <Routes>
        {publicPages(session.data)}
        <Route path="*" element={<SignInPage session={session.data} />} />
      </Routes>
    );
  switch (signedIn.person.role) {
    case "student":
      return <StudentRoutes session={signedIn} />;
    case "advisor":
      return <AdvisorRoutes session={signedIn} />;
    case "instructor":
      return <InstructorRoutes session={signedIn} />;
    case "cashier":
      return <CashierRoutes session={signedIn} />;
    case "registrar":
      return <RegistrarRoutes session={signedIn} />;
  }
}

type Props = { session: SignedIn };

/** The pages that need no signing in. */
function publicPages(session: Session) {
  return (
    <>
      <Route element={<PublicFrame session={session} />}>
        <Route path="/:term/find" element={<FindPage />} />
      </Route>
      <Route path="/shared/:token" element={<SharedPage college={session.college} />} />
    </>
  );
}

/** The screens about one student, under whatever address they stand. */
function screens(session: SignedIn) {
  return (
    <>
      <Route index element={<Navigate to="week" replace />} />
      <Route path="clearance" element={<ClearancePage session={session} />} />
      <Route path="find" element={<FindPage />} />
      <Route path="week" element={<WeekPage session={session} />} />
      <Route path="cart" element={<WeekPage session={session} />} />
      <Route path="waitlists" element={<WaitlistsPage session={session} />} />
      <Route path="messages" element={<MessagesPage session={session} />} />
      <Route path="receipts" element={<ReceiptsPage session={session} />} />
      <Route path="receipts/:id" element={<ReceiptPage session={session} />} />
    </>
  );
}

function StudentRoutes({ session }: Props) {
  const home = <Navigate to={`/${session.usual_term}/week`} replace />;
  return (
    <Routes>
      <Route path="/shared/:token" element={<SharedPage college={session.college} />} />
      <Route path="/:term/week/print" element={<PrintPage session={session} />} />
      <Route path="/:term" element={<Frame session={session} />}>
        {screens(session)}
        <Route path="*" element={home} />
      </Route>
      <Route path="*" element={home} />
    </Routes>
  );
}

function AdvisorRoutes({ session }: Props) {
  const home = <Navigate to={`/advising/${session.usual_term}`} replace />;
  return (
    <Routes>
      {publicPages(session)}
      <Route element={<OfficeFrame session={session} />}>
        <Route path="/advising/:term" element={<AdviseesPage session={session} />} />
      </Route>
      <Route path="/advising/:student/:term/week/print" element={<PrintPage session={session} />} />
      <Route path="/advising/:student/:term" element={<Frame session={session} />}>
        {screens(session)}
      </Route>
      <Route path="*" element={home} />
    </Routes>
  );
}

function InstructorRoutes({ session }: Props) {
  const home = <Navigate to={`/teaching/${session.usual_term}`} replace />;
  return (
    <Routes>
      {publicPages(session)}
      <Route element={<OfficeFrame session={session} />}>
        <Route path="/teaching/:term" element={<TaughtPage />} />
        <Route path="/teaching/:term/:number" element={<TaughtSectionPage session={session} />} />
      </Route>
      <Route path="*" element={home} />
    </Routes>
  );
}

function CashierRoutes({ session }: Props) {
  const home = <Navigate to={`/fees/${session.usual_term}`} replace />;
  return (
    <Routes>
      {publicPages(session)}
      <Route element={<OfficeFrame session={session} />}>
        <Route path="/fees/:term" element={<CashierPage session={session} />} />
      </Route>
      <Route path="*" element={home} />
    </Routes>
  );
}

function RegistrarRoutes({ session }: Props) {
  const home = <Navigate to={`/office/${session.usual_term}/mail`} replace />;
  return (
    <Routes>
      {publicPages(session)}
      <Route element={<OfficeFrame session={session} />}>
        <Route path="/office/:term/mail" element={<RefusedMailPage session={session} />} />
      </Route>
      <Route path="*" element={home} />
    </Routes>
  );
}

function Centred({ children }: { children: React.ReactNode }) {
  return <main className="mx-auto max-w-md p-8">{children}</main>;
}

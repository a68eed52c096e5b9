import { useQuery } from "@tanstack/react-query";
import { type ComponentType, lazy, type ReactNode, Suspense } from "react";
import { Navigate, Route, Routes, useParams } from "react-router";
import { sessionQuery } from "./api/queries";
import { type Session, type SignedIn, useSignedIn } from "./features/access/session/useSignedIn";
import { ProblemNotice } from "./ui/Notice";
import { Reading } from "./ui/Page";

/** A page whose script is fetched when it is first shown: a first view carries only its own. */
function page<Name extends string, P extends object>(
  load: () => Promise<Record<Name, ComponentType<P>>>,
  name: Name,
) {
  return lazy(async () => ({ default: (await load())[name] }));
}

const AdviseesPage = page(
  () => import("./features/students/advising/AdviseesPage"),
  "AdviseesPage",
);
const AccountPage = page(() => import("./features/account/statement/AccountPage"), "AccountPage");
const AccountPrintPage = page(
  () => import("./features/account/statement/AccountPrintPage"),
  "AccountPrintPage",
);
const CashierPage = page(() => import("./features/account/cashier/CashierPage"), "CashierPage");
const ClearancePage = page(
  () => import("./features/students/clearance/ClearancePage"),
  "ClearancePage",
);
const NonpaymentPage = page(
  () => import("./features/account/cashier/NonpaymentPage"),
  "NonpaymentPage",
);
const DayPage = page(() => import("./features/account/cashier/DayPage"), "DayPage");
const DeskPage = page(() => import("./features/account/cashier/DeskPage"), "DeskPage");
const FindPage = page(() => import("./features/catalogue/find/FindPage"), "FindPage");
const TimetablesPage = page(() => import("./features/timetables/TimetablesPage"), "TimetablesPage");
const TimetablePrintPage = page(
  () => import("./features/timetables/TimetablePrintPage"),
  "TimetablePrintPage",
);
const Frame = page(() => import("./features/frame/Frame"), "Frame");
const MessagesPage = page(() => import("./features/messages/MessagesPage"), "MessagesPage");
const OfficeFrame = page(() => import("./features/frame/OfficeFrame"), "OfficeFrame");
const NoTermPage = page(() => import("./features/access/session/NoTermPage"), "NoTermPage");
const NotFound = page(() => import("./features/frame/NotFound"), "NotFound");
const PlanPage = page(() => import("./features/students/plan/PlanPage"), "PlanPage");
const PrintPage = page(() => import("./features/registration/schedule/PrintPage"), "PrintPage");
const PublicFrame = page(() => import("./features/frame/PublicFrame"), "PublicFrame");
const AnswerPage = page(() => import("./features/permission/requests/AnswerPage"), "AnswerPage");
const RequestsPage = page(
  () => import("./features/permission/requests/RequestsPage"),
  "RequestsPage",
);
type RegistrarPages = typeof import("./registrarPages");

/** A page of the registrar; they come together, since nobody else needs any of them. */
function registrarPage<Name extends keyof RegistrarPages>(name: Name) {
  return lazy(async () => ({ default: (await import("./registrarPages"))[name] }));
}

const BringIn = registrarPage("BringIn");
const FolderPage = registrarPage("FolderPage");
const RecordPage = registrarPage("RecordPage");
const StudentPage = registrarPage("StudentPage");
const StudentsPage = registrarPage("StudentsPage");
const SectionsPage = registrarPage("SectionsPage");
const TermPage = registrarPage("TermPage");
const WindowsPage = registrarPage("WindowsPage");
const ConfirmationPage = page(
  () => import("./features/registration/confirmations/ConfirmationPage"),
  "ConfirmationPage",
);
const ConfirmationsPage = page(
  () => import("./features/registration/confirmations/ConfirmationsPage"),
  "ConfirmationsPage",
);
const RefusedMailPage = page(
  () => import("./features/messages/RefusedMailPage"),
  "RefusedMailPage",
);
const SharedTimetable = page(
  () => import("./features/timetables/SharedTimetable"),
  "SharedTimetable",
);
const SharedPage = page(() => import("./features/registration/schedule/SharedPage"), "SharedPage");
const SignInPage = page(() => import("./features/access/session/SignInPage"), "SignInPage");
const TaughtPage = page(() => import("./features/permission/teaching/TaughtPage"), "TaughtPage");
const TaughtSectionPage = page(
  () => import("./features/permission/teaching/TaughtSectionPage"),
  "TaughtSectionPage",
);
const WelcomePage = page(() => import("./features/access/session/WelcomePage"), "WelcomePage");
const WaitlistsPage = page(() => import("./features/waitlists/WaitlistsPage"), "WaitlistsPage");
const WeekPage = page(() => import("./features/registration/schedule/WeekPage"), "WeekPage");

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
  return (
    <Suspense fallback={<Centred>{<Reading what="the page" />}</Centred>}>
      <Pages session={session.data} signedIn={signedIn} />
    </Suspense>
  );
}

function Pages({ session, signedIn }: { session: Session; signedIn: SignedIn | null }) {
  if (!signedIn) return <VisitorRoutes session={session} />;
  return (
    <Routes>
      <Route path="/welcome" element={<Navigate to="/" replace />} />
      <Route
        path="/no-term-yet"
        element={
          <NoTermPage session={signedIn}>
            <BringIn />
          </NoTermPage>
        }
      />
      <Route path="*" element={<RoleRoutes signedIn={signedIn} />} />
    </Routes>
  );
}

function RoleRoutes({ signedIn }: { signedIn: SignedIn }) {
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

/** Of a term that there is: for another one nothing is asked of the server. */
function OfATerm({ session, children }: { session: Session; children: ReactNode }) {
  const { term } = useParams();
  if (session.terms.some(({ code }) => code === term)) return children;
  return <NotFound what="There is no such term" />;
}

/** The pages that need no signing in. */
function publicPages(session: Session) {
  return (
    <>
      <Route
        element={
          <OfATerm session={session}>
            <PublicFrame session={session} />
          </OfATerm>
        }
      >
        <Route path="/:term/find" element={<FindPage />} />
      </Route>
      {sharedPages(session)}
    </>
  );
}

/** What anybody may read who was given its link. */
function sharedPages({ college }: Session) {
  return (
    <>
      <Route path="/shared/:token" element={<SharedPage college={college} />} />
      <Route path="/shared/timetables/:token" element={<SharedTimetable college={college} />} />
    </>
  );
}

/** Addresses of somebody's own: who comes to one without being signed in is asked to sign in. */
const OWN = [
  "/:term",
  ...[
    "clearance",
    "timetables",
    "timetables/print",
    "plan",
    "schedule",
    "schedule/print",
    "cart",
    "waitlists",
    "messages",
    "account",
    "account/print",
    "requests",
    "confirmations",
  ].map((screen) => `/:term/${screen}`),
  "/:term/confirmations/:id",
  "/advising/*",
  "/teaching/*",
  "/fees/*",
  "/office/*",
];

function VisitorRoutes({ session }: { session: Session }) {
  const signIn = <SignInPage session={session} />;
  return (
    <Routes>
      {publicPages(session)}
      <Route path="/welcome" element={<WelcomePage session={session} />} />
      <Route path="/" element={signIn} />
      {OWN.map((path) => (
        <Route key={path} path={path} element={signIn} />
      ))}
      <Route path="*" element={<NotFound />} />
    </Routes>
  );
}

/** The screens about one student, under whatever address they stand. */
function screens(session: SignedIn) {
  return (
    <>
      <Route index element={<Navigate to="schedule" replace />} />
      <Route path="clearance" element={<ClearancePage session={session} />} />
      <Route path="find" element={<FindPage />} />
      <Route path="timetables" element={<TimetablesPage />} />
      <Route path="plan" element={<PlanPage session={session} />} />
      <Route path="schedule" element={<WeekPage session={session} />} />
      <Route path="cart" element={<WeekPage session={session} />} />
      <Route path="waitlists" element={<WaitlistsPage session={session} />} />
      <Route path="messages" element={<MessagesPage session={session} />} />
      <Route path="requests" element={<RequestsPage session={session} />} />
      <Route path="confirmations" element={<ConfirmationsPage session={session} />} />
      <Route path="confirmations/:id" element={<ConfirmationPage session={session} />} />
    </>
  );
}

/** The frame with the screens of one student. */
function frameOf(session: SignedIn) {
  return (
    <OfATerm session={session}>
      <Frame session={session} />
    </OfATerm>
  );
}

function printOf(session: SignedIn) {
  return (
    <OfATerm session={session}>
      <PrintPage session={session} />
    </OfATerm>
  );
}

function StudentRoutes({ session }: Props) {
  const home = <Navigate to={homeOf("", session, "/schedule")} replace />;
  return (
    <Routes>
      <Route path="/" element={home} />
      {sharedPages(session)}
      <Route path="/:term/schedule/print" element={printOf(session)} />
      <Route path="/:term/timetables/print" element={<TimetablePrintPage session={session} />} />
      <Route path="/:term/account/print" element={<AccountPrintPage session={session} />} />
      <Route path="/:term" element={frameOf(session)}>
        {screens(session)}
        <Route path="/:term/account" element={<AccountPage session={session} />} />
        <Route path="*" element={<NotFound isInside />} />
      </Route>
      <Route path="*" element={<NotFound />} />
    </Routes>
  );
}

/** Where somebody begins; where there is no term yet, it is said so. */
function homeOf(before: string, { usual_term }: Session, after = ""): string {
  return usual_term ? `${before}/${usual_term}${after}` : "/no-term-yet";
}

/** The screens of a student whom an office sees and acts for. */
function asAnother(base: string, session: SignedIn) {
  return (
    <>
      <Route path={`${base}/:student/:term/schedule/print`} element={printOf(session)} />
      <Route
        path={`${base}/:student/:term/timetables/print`}
        element={<TimetablePrintPage session={session} />}
      />
      <Route path={`${base}/:student/:term`} element={frameOf(session)}>
        {screens(session)}
        <Route path="*" element={<NotFound isInside />} />
      </Route>
    </>
  );
}

function AdvisorRoutes({ session }: Props) {
  return (
    <Routes>
      {publicPages(session)}
      <Route path="/" element={<Navigate to={homeOf("/advising", session)} replace />} />
      <Route element={officeOf(session)}>
        <Route path="/advising/:term" element={<AdviseesPage session={session} />} />
        <Route path="/advising/:term/requests" element={<AnswerPage session={session} />} />
      </Route>
      {asAnother("/advising", session)}
      <Route path="*" element={<NotFound />} />
    </Routes>
  );
}

function officeOf(session: SignedIn) {
  return (
    <OfATerm session={session}>
      <OfficeFrame session={session} />
    </OfATerm>
  );
}

function InstructorRoutes({ session }: Props) {
  return (
    <Routes>
      {publicPages(session)}
      <Route path="/" element={<Navigate to={homeOf("/teaching", session)} replace />} />
      <Route element={officeOf(session)}>
        <Route path="/teaching/:term" element={<TaughtPage />} />
        <Route path="/teaching/:term/requests" element={<AnswerPage session={session} />} />
        <Route path="/teaching/:term/:number" element={<TaughtSectionPage session={session} />} />
      </Route>
      <Route path="*" element={<NotFound />} />
    </Routes>
  );
}

function CashierRoutes({ session }: Props) {
  return (
    <Routes>
      {publicPages(session)}
      <Route path="/" element={<Navigate to={homeOf("/fees", session)} replace />} />
      <Route element={officeOf(session)}>
        <Route path="/fees/:term" element={<CashierPage session={session} />} />
        <Route path="/fees/:term/nonpayment" element={<NonpaymentPage session={session} />} />
        <Route path="/fees/:term/day" element={<DayPage />} />
        <Route path="/fees/:term/:id" element={<DeskPage session={session} />} />
      </Route>
      <Route path="*" element={<NotFound />} />
    </Routes>
  );
}

function RegistrarRoutes({ session }: Props) {
  return (
    <Routes>
      {publicPages(session)}
      <Route path="/" element={<Navigate to={homeOf("/office", session)} replace />} />
      <Route element={officeOf(session)}>
        <Route path="/office/:term" element={<TermPage />} />
        <Route path="/office/:term/sections" element={<SectionsPage />} />
        <Route path="/office/:term/students" element={<StudentsPage />} />
        <Route path="/office/:term/students/:id" element={<StudentPage session={session} />} />
        <Route path="/office/:term/windows" element={<WindowsPage session={session} />} />
        <Route path="/office/:term/folder" element={<FolderPage />} />
        <Route path="/office/:term/record" element={<RecordPage session={session} />} />
        <Route path="/office/:term/requests" element={<AnswerPage session={session} />} />
        <Route path="/office/:term/mail" element={<RefusedMailPage session={session} />} />
      </Route>
      {asAnother("/office/students", session)}
      <Route path="*" element={<NotFound />} />
    </Routes>
  );
}

function Centred({ children }: { children: ReactNode }) {
  return <main className="mx-auto max-w-md p-8">{children}</main>;
}

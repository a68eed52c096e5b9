/** The screens about one student, in the order of their work. */
const SCREENS = [
  { path: "clearance", name: "Clearance" },
  { path: "find", name: "Find" },
  { path: "timetables", name: "Timetables" },
  { path: "schedule", name: "Week" },
  { path: "waitlists", name: "Waitlists" },
  { path: "account", name: "Account", isOwn: true },
  { path: "requests", name: "Requests" },
  { path: "confirmations", name: "Confirmations" },
];

/** Those of them that there are: what somebody pays is not for the advisor. */
export function screensOf({ student }: { student?: number | undefined }) {
  return student === undefined ? SCREENS : SCREENS.filter(({ isOwn }) => !isOwn);
}

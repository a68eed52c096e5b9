/** The screens about one student, in the order of their work. */
export const SCREENS = [
  { path: "clearance", name: "Clearance" },
  { path: "find", name: "Find" },
  { path: "fits", name: "Fits" },
  { path: "week", name: "Week" },
  { path: "waitlists", name: "Waitlists" },
  { path: "receipts", name: "Receipts" },
];

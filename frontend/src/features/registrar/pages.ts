/** All pages of the registrar, fetched as one. */
export { BringIn } from "./BringIn";
export { FolderPage } from "./FolderPage";
export { RecordPage } from "./RecordPage";
export { SectionsPage } from "./SectionsPage";
export { StudentPage } from "./StudentPage";
export { StudentsPage } from "./StudentsPage";
export { TermPage } from "./TermPage";
export { WindowsPage } from "./WindowsPage";

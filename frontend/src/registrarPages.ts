/** All pages of the registrar, fetched as one. */

export { RecordPage } from "./features/access/registrar/RecordPage";
export { SectionsPage } from "./features/catalogue/sections/SectionsPage";
export { TermPage } from "./features/catalogue/term/TermPage";
export { BringIn } from "./features/exchange/BringIn";
export { FolderPage } from "./features/exchange/FolderPage";
export { StudentPage } from "./features/students/registrar/StudentPage";
export { StudentsPage } from "./features/students/registrar/StudentsPage";
export { WindowsPage } from "./features/windows/WindowsPage";

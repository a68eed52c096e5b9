/** Keys of a single letter can be switched off, for those who speak or strike them by accident (WCAG 2.1.4). */
const SLOT = "gremba.single-keys";

export const singleKeys = {
  isOn: () => localStorage.getItem(SLOT) !== "off",
  set: (on: boolean) => localStorage.setItem(SLOT, on ? "on" : "off"),
};

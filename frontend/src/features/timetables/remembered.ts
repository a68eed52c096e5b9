/** What was asked last of Timetables in this window, by term and student, as the part of an address. */
const key = (place: string) => `fits ${place}`;

export function recall(place: string): string {
  return window.sessionStorage.getItem(key(place)) ?? "";
}

export function remember(place: string, search: string): void {
  window.sessionStorage.setItem(key(place), search);
}

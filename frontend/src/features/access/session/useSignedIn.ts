import { useRef } from "react";
import type { Schemas } from "../../../api/client";

export type Session = Schemas["SessionResponse"] & { ahead: number };
export type SignedIn = Session & { person: Schemas["PersonResponse"]; expired: boolean };

/**
 * Who is signed in. When a session ends by itself the person stays on the page, marked as
 * expired, so that nothing they see or have typed is lost while they sign in again. (Signing
 * out loads the page anew.)
 */
export function useSignedIn(session: Session | undefined): SignedIn | null {
  const last = useRef<Schemas["PersonResponse"] | null>(null);
  if (!session) return null;
  if (session.person) last.current = session.person;
  const person = session.person ?? last.current;
  return person ? { ...session, person, expired: !session.person } : null;
}

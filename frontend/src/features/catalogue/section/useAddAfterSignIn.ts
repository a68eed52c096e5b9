/** What a visitor pressed before signing in is done afterwards: the section is in the cart. */
import { useEffect, useRef } from "react";
import { useAnnounce } from "../../../ui/announce";
import { useSearch } from "../../../ui/useSearch";
import { useCartChanges } from "../../registration/changes/useCartChanges";
import type { PageSubject } from "../../students/subject/usePageSubject";
import { SIGN_IN } from "./SectionAction";

export function useAddAfterSignIn(subject: PageSubject): void {
  const [search, change] = useSearch();
  const announce = useAnnounce();
  const { put } = useCartChanges(subject);
  const pressed = search.get(SIGN_IN);
  const done = useRef("");
  useEffect(() => {
    if (pressed === null || done.current === pressed) return;
    done.current = pressed;
    change((params) => params.delete(SIGN_IN), { replace: true });
    const [, kind, number] = /^(add|wait)-(\d{5})$/.exec(pressed) ?? [];
    if ((kind !== "add" && kind !== "wait") || !number) return;
    put.mutate([{ kind, number, in_exchange: "" }], {
      onSuccess: ({ reports }) => announce(reports.map((report) => report.text).join(" ")),
    });
  }, [pressed, change, put.mutate, announce]);
}

import { useEffect } from "react";
import { useNavigate } from "react-router";
import { NUMBER_FIELD, WORDS_FIELD } from "../../ui/fields";
import { focusSoon } from "../../ui/focus";
import { singleKeys } from "./singleKeys";

function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
  );
}

type Props = {
  base: string;
  showKeys: () => void;
  showPalette: () => void;
};

export function useKeys({ base, showKeys, showPalette }: Props): void {
  const navigate = useNavigate();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === "k" && (event.ctrlKey || event.metaKey)) {
        event.preventDefault();
        showPalette();
        return;
      }
      if (!singleKeys.isOn()) return;
      if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (document.querySelector('[role="dialog"]')) return;
      if (event.key === "n") {
        const field = document.getElementById(NUMBER_FIELD);
        if (field?.offsetParent == null) navigate(`${base}/cart`);
        focusSoon(NUMBER_FIELD);
      } else if (event.key === "/") {
        if (!document.getElementById(WORDS_FIELD)) navigate(`${base}/find`);
        focusSoon(WORDS_FIELD);
      } else if (event.key === "f") navigate(`${base}/timetables`);
      else if (event.key === "w") navigate(`${base}/schedule`);
      else if (event.key === "a") navigate(`${base}/waitlists`);
      else if (event.key === "c") navigate(`${base}/clearance`);
      else if (event.key === "r") navigate(`${base}/confirmations`);
      else if (event.key === "?") showKeys();
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [navigate, base, showKeys, showPalette]);
}

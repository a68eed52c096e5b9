import { useEffect, useState } from "react";

/** The campus time, renewed every second; `ahead` is how far it is before this machine's. */
export function useNow(ahead: number): Date {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = window.setInterval(() => setNow(Date.now()), 1000);
    return () => window.clearInterval(timer);
  }, []);
  return new Date(now + ahead);
}

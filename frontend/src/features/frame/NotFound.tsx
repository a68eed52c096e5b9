import { useEffect } from "react";
import { Link } from "react-router";

type Props = {
  what?: string;
  /** It stands inside a frame, which has the page's main part already. */
  isInside?: boolean;
};

/** At an address that leads nowhere. Nothing is asked of the server for it. */
export function NotFound({ what = "There is nothing at this address", isInside }: Props) {
  const Part = isInside ? "div" : "main";
  useEffect(() => {
    document.title = "Nothing here · Gremba";
  }, []);
  return (
    <Part className="mx-auto max-w-md p-8" data-testid="not-found">
      <h1 className="text-[26px] leading-tight">{what}</h1>
      <p className="mt-2 mb-4 text-soft">
        A letter may be missing, or what was here has gone. Carts and registrations are where they
        were.
      </p>
      <Link className="link" to="/">
        To the first page
      </Link>
    </Part>
  );
}

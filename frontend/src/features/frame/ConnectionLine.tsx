import { useConnection } from "../../api/connection";

/** Says so when the server does not answer. */
export function ConnectionLine() {
  const state = useConnection();
  return (
    <div aria-live="polite">
      {state === "lost" && (
        <p className="border-b border-ink bg-madder-tint px-5 py-1.5 text-[13px]">
          <strong className="font-semibold text-madder">No answer from the server.</strong> This
          page tries again by itself. Nothing is lost; what is shown may be a little old.
        </p>
      )}
    </div>
  );
}

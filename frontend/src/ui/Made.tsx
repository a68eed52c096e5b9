import { useId, useState } from "react";
import { Button } from "./Button";
import { Field, INPUT } from "./Field";

/** The new address, told this once. */
export function Made({ path }: { path: string }) {
  const id = useId();
  const address = `${window.location.origin}${path}`;
  const [copied, setCopied] = useState(false);
  return (
    <div className="mt-4 border-l-4 border-l-pine bg-paper px-3 py-2.5">
      <Field id={id} label="Copy it now; it is not shown again">
        <input
          id={id}
          className={`${INPUT} number`}
          readOnly
          value={address}
          onFocus={(event) => event.target.select()}
        />
      </Field>
      <Button
        className="mt-2"
        onClick={() => navigator.clipboard.writeText(address).then(() => setCopied(true))}
      >
        {copied ? "Copied" : "Copy"}
      </Button>
    </div>
  );
}

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../../../api/client";
import { taughtSectionQuery } from "../../../api/queries";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { dayAndTime } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { PermissionCodeForm } from "./PermissionCodeForm";

type PermissionCode = Schemas["PermissionCodeResponse"];
type Props = {
  term: string;
  number: string;
  permission_codes: PermissionCode[];
  session: SignedIn;
};

/** The codes given out: what each lifts, for whom, until when, and who has used it. */
export function PermissionCodes({ term, number, permission_codes, session }: Props) {
  const client = useQueryClient();
  const keep = (taught: Schemas["TaughtResponse"]) =>
    client.setQueryData(taughtSectionQuery(term, number).queryKey, taught);
  const give = useMutation({
    mutationFn: (body: Schemas["PermissionCodesWanted"]) =>
      take(
        api.POST("/api/terms/{term}/taught/{number}/permission-codes", {
          params: { path: { term, number } },
          body,
        }),
      ),
    onSuccess: keep,
  });
  const takeBack = useMutation({
    mutationFn: (permission_code_id: number) =>
      take(
        api.DELETE("/api/terms/{term}/taught/{number}/permission-codes/{permission_code_id}", {
          params: { path: { term, number, permission_code_id } },
        }),
      ),
    onSuccess: keep,
  });
  const problem = give.error ?? takeBack.error;
  return (
    <section aria-labelledby="permission_codes">
      <h2 id="permission_codes" className="border-b border-ink pb-1 text-[20px]">
        Codes, and who was let in
      </h2>
      <PermissionCodeForm isPending={give.isPending} onGive={give.mutate} />
      {problem && <ProblemNotice problem={problem} />}
      {permission_codes.length === 0 && (
        <p className="py-2 text-soft">None has been given out yet.</p>
      )}
      <ul>
        {permission_codes.map((consent) => (
          <li
            key={consent.id}
            className="grid items-center gap-x-4 border-b border-hair py-1.5 text-[13px] md:grid-cols-[100px_minmax(0,1.4fr)_minmax(0,1.6fr)_auto]"
          >
            {consent.code ? (
              <span className="number text-[14px] font-bold">{consent.code}</span>
            ) : (
              <span className="text-soft">let in</span>
            )}
            <span>lifts {consent.waives.join(", ")}</span>
            <span className="text-soft">{fate(consent, session)}</span>
            {consent.state === "open" ? (
              <Button
                look="quiet"
                disabled={takeBack.isPending}
                onClick={() => takeBack.mutate(consent.id)}
              >
                Take back
                <span className="sr-only"> {consent.code || `from ${consent.student}`}</span>
              </Button>
            ) : (
              <span />
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function fate(consent: PermissionCode, session: SignedIn): string {
  const at = (when: string) => dayAndTime(new Date(when), session.zone);
  if (consent.used_at) return `used by ${consent.used_by}, ${at(consent.used_at)}`;
  const whom = consent.student ? `for ${consent.student}` : "for anybody";
  if (consent.state === "open")
    return `${whom}, ${consent.expires_at ? `until ${at(consent.expires_at)}` : "without an end"}`;
  return `${consent.state}, ${whom}`;
}

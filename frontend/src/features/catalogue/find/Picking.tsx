import { Button } from "../../../ui/Button";
import { useSearch } from "../../../ui/useSearch";
import { PICK, pickOf } from "../section/pick";
import { useMine } from "../section/useMine";

/** What a section is being looked for, where it is. */
export function Picking() {
  const [search, change] = useSearch();
  const { has, cart } = useMine();
  const pick = has ? pickOf(search) : null;
  if (!pick) return null;
  const next = pick.is === "next" && cart?.changes.find(({ id }) => id === pick.change);
  return (
    <p className="mt-2 flex flex-wrap items-baseline justify-between gap-x-4 border-l-4 border-l-woad bg-surface px-3 py-2">
      <span>
        {pick.is === "swap" ? (
          <>
            Choose the section to swap <span className="number">{pick.number}</span> for. You keep
            it until the swap has gone through.
          </>
        ) : (
          <>
            Choose what to take where {next ? next.original.name : "it"}{" "}
            <span className="number">{next ? next.original.number : ""}</span> cannot be had.
          </>
        )}
      </span>
      <Button
        look="link"
        onClick={() => change((params) => params.delete(PICK), { replace: true })}
      >
        Not now
      </Button>
    </p>
  );
}

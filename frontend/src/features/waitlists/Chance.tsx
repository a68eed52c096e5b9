import type { Schemas } from "../../api/client";

/** How often places like this one came up: in a sentence, and as a bar with its uncertainty. */
export function Chance({ chance }: { chance: Schemas["ChanceResponse"] }) {
  const at = (share: number) => `${share * 100}%`;
  return (
    <div className="mt-2 text-[13px]">
      <p>{chance.sentence}</p>
      <div
        role="img"
        aria-label={`Between ${Math.round(chance.low * 100)} and ${Math.round(chance.high * 100)} in a hundred`}
        className="relative mt-1.5 h-[10px] w-[220px] max-w-full forced-color-adjust-none bg-shade"
      >
        <span
          className="absolute inset-y-[2px] bg-[#a9bdd0]"
          style={{ left: at(chance.low), width: at(chance.high - chance.low) }}
        />
        <span
          className="absolute inset-y-0 w-[2px] bg-woad"
          style={{ left: at(chance.came_up / chance.of) }}
        />
      </div>
      <p className="flex w-[220px] max-w-full justify-between text-small text-soft" aria-hidden>
        <span>none</span>
        <span>all came up</span>
      </p>
    </div>
  );
}

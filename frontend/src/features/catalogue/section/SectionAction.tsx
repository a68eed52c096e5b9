import type { Schemas } from "../../../api/client";
import { useSeats } from "../../../api/stream";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { useSearch } from "../../../ui/useSearch";
import { useCartChanges } from "../../registration/changes/useCartChanges";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { PICK, type Pick, pickOf } from "./pick";
import { hasRoom } from "./seats";
import { type Mine, useMine } from "./useMine";

type Row = Schemas["SectionRow"];

/** The address part that asks to sign in, over the page. */
export const SIGN_IN = "sign-in";

/** The one thing to do with a section: add it, take it for the one in the cart, swap to it. */
export function SectionAction({ row, choices = false }: { row: Row; choices?: boolean }) {
  const subject = usePageSubject();
  const mine = useMine();
  const announce = useAnnounce();
  const [search, changeSearch] = useSearch();
  const { put, instead, choose } = useCartChanges(subject);
  const what = (
    <span className="sr-only">
      {" "}
      {row.name} {row.number}
    </span>
  );
  const seats = useSeats(subject.term, row.number, row.seats);
  const picking = mine.has ? pickOf(search) : null;
  const offer = offerOf({ ...row, seats }, mine, picking);
  if (offer.is === "said") return <span className="text-small text-soft">{offer.text}</span>;
  const busy = put.isPending || instead.isPending;
  const act = () => {
    if (!mine.has) {
      // What was pressed is done once somebody has signed in.
      const kind = offer.is === "put" ? offer.kind : "add";
      changeSearch((params) => params.set(SIGN_IN, `${kind}-${row.number}`));
    } else if (offer.is === "next") {
      const { id, version, alternatives } = offer.change;
      const chosen = [...alternatives.map(({ numbers }) => numbers), [row.number]];
      choose.mutate(
        { id, version, chosen: { alternatives: chosen } },
        { onSuccess: () => picked(`${row.name} ${row.number} is the next choice.`) },
      );
    } else if (offer.is === "exchange") {
      instead.mutate(
        { id: offer.change.id, version: offer.change.version, numbers: [row.number] },
        { onSuccess: () => announce(`${row.name} ${row.number} is in the cart instead.`) },
      );
    } else {
      const { kind, in_exchange } = offer;
      put.mutate([{ kind, number: row.number, in_exchange }], {
        onSuccess: ({ reports }) => {
          const told = reports.map((report) => report.text).join(" ");
          if (picking && reports.every(({ taken }) => taken)) picked(told);
          else announce(told);
        },
      });
    }
  };
  const picked = (told: string) => {
    announce(told);
    changeSearch((params) => params.delete(PICK), { replace: true });
  };
  const asNext = choices && offer.is === "exchange" ? offer.change : undefined;
  const failed = put.error ?? instead.error ?? choose.error;
  return (
    <>
      <Button disabled={busy} onClick={act} title={offer.title}>
        {offer.word}
        {what}
      </Button>
      {asNext?.takes_next && (
        <Button
          disabled={choose.isPending}
          title={`Take it only where ${asNext.original.number} cannot be had`}
          onClick={() =>
            choose.mutate({
              id: asNext.id,
              version: asNext.version,
              chosen: {
                alternatives: [...asNext.alternatives.map(({ numbers }) => numbers), [row.number]],
              },
            })
          }
        >
          As next choice
        </Button>
      )}
      {failed && (
        <span role="alert" className="block text-small text-madder">
          {failed.message}
        </span>
      )}
    </>
  );
}

type Offer =
  | { is: "said"; text: string }
  | { is: "put"; word: string; title: string; kind: "add" | "swap" | "wait"; in_exchange: string }
  | { is: "next"; word: string; title: string; change: Schemas["CartChangeResponse"] }
  | { is: "exchange"; word: string; title: string; change: Schemas["CartChangeResponse"] };

const SAID = {
  registered: "registered",
  "in cart": "in cart",
  "next choice": "next choice",
  waiting: "you wait",
  offered: "offered to you",
  open: "",
} as const;

/** The server says what can be done with a section; whether there is a seat changes by the second. */
function offerOf(row: Row, { cart, actions }: Mine, picking: Pick | null): Offer {
  const told = actions.get(row.number);
  const said = SAID[told?.state ?? "open"];
  if (said) return { is: "said", text: said };
  if (row.cancelled) return { is: "said", text: "cancelled" };
  const next = picking?.is === "next" ? picking.change : null;
  const whose = cart?.changes.find(({ id }) => id === next);
  if (whose?.takes_next)
    return {
      is: "next",
      word: "As next",
      title: `Where ${whose.original.number} cannot be had`,
      change: whose,
    };
  if (picking?.is === "swap") {
    const { number } = picking;
    const title = `You keep ${number} until the swap has gone through`;
    return { is: "put", word: "Swap", title, kind: "swap", in_exchange: number };
  }
  const there = cart?.changes.find(({ id }) => id === told?.exchange);
  if (there) {
    const title = `Instead of ${there.outcome.number}, which is in your cart`;
    return { is: "exchange", word: "Take", title, change: there };
  }
  const held = told?.in_exchange ?? "";
  if (row.seats.left === 0 && hasRoom(row.seats)) {
    const title = held
      ? `You keep ${held} until a seat comes`
      : `You would be number ${row.seats.waiting + 1} waiting`;
    return { is: "put", word: "Wait", title, kind: "wait", in_exchange: held };
  }
  if (held) {
    const title = `You keep ${held} until the swap has gone through`;
    return { is: "put", word: "Swap", title, kind: "swap", in_exchange: held };
  }
  return { is: "put", word: "Add", title: "Put it into the cart", kind: "add", in_exchange: "" };
}

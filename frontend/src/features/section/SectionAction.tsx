import { useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useSeats } from "../../api/seats";
import { useAnnounce } from "../../ui/announce";
import { Button } from "../../ui/Button";
import { MOST_NEXT } from "../cart/NextChoices";
import { useCartChanges } from "../cart/useCart";
import { usePlace } from "../frame/usePlace";
import { hasRoom } from "./SeatMeter";
import { type Mine, useMine } from "./useMine";

type Row = Schemas["SectionRow"];

/** The address part that asks to sign in, over the page. */
export const SIGN_IN = "sign-in";

/** The one thing to do with a section: add it, take it for the one in the cart, swap to it. */
export function SectionAction({ row, choices = false }: { row: Row; choices?: boolean }) {
  const place = usePlace();
  const mine = useMine();
  const announce = useAnnounce();
  const [, setSearch] = useSearchParams();
  const { put, instead, next } = useCartChanges(place);
  const what = (
    <span className="sr-only">
      {" "}
      {row.name} {row.number}
    </span>
  );
  const seats = useSeats(place.term, row.number, row.seats);
  const offer = offerOf({ ...row, seats }, mine);
  if (offer.is === "said") return <span className="text-small text-soft">{offer.text}</span>;
  const busy = put.isPending || instead.isPending;
  const act = () => {
    if (!mine.has) {
      setSearch((search) => {
        search.set(SIGN_IN, "");
        return search;
      });
    } else if (offer.is === "exchange") {
      instead.mutate(
        { id: offer.change, numbers: [row.number] },
        { onSuccess: () => announce(`${row.name} ${row.number} is in the cart instead.`) },
      );
    } else {
      const { kind, gives_up } = offer;
      put.mutate([{ kind, number: row.number, gives_up }], {
        onSuccess: ({ reports }) => announce(reports.map((report) => report.text).join(" ")),
      });
    }
  };
  const asNext =
    choices && offer.is === "exchange"
      ? mine.cart?.changes.find(({ id }) => id === offer.change)
      : undefined;
  const failed = put.error ?? instead.error ?? next.error;
  return (
    <>
      <Button disabled={busy} onClick={act} title={offer.title}>
        {offer.word}
        {what}
      </Button>
      {asNext && asNext.or_else.length < MOST_NEXT && (
        <Button
          disabled={next.isPending}
          title={`Take it only where ${asNext.wish.number} cannot be had`}
          onClick={() =>
            next.mutate({
              id: asNext.id,
              orElse: [...asNext.or_else.map(({ numbers }) => numbers), [row.number]],
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
  | { is: "put"; word: string; title: string; kind: "add" | "swap" | "wait"; gives_up: string }
  | { is: "exchange"; word: string; title: string; change: number };

function offerOf(row: Row, { cart, registered, places }: Mine): Offer {
  if (registered.some(({ number }) => number === row.number))
    return { is: "said", text: "registered" };
  const changes = cart?.changes ?? [];
  if (changes.some(({ outcome, wish }) => [outcome.number, wish.number].includes(row.number)))
    return { is: "said", text: "in cart" };
  if (changes.some(({ or_else }) => or_else.some(({ numbers }) => numbers[0] === row.number)))
    return { is: "said", text: "next choice" };
  const place = places.get(row.number);
  if (place) return { is: "said", text: place === "offered" ? "offered to you" : "you wait" };
  if (row.cancelled) return { is: "said", text: "cancelled" };
  const isSame = (other: { name: string; title: string }) =>
    other.name === row.name && (!row.topic || other.title === row.title);
  const there = changes.find(
    ({ outcome }) => (outcome.kind === "add" || outcome.kind === "swap") && isSame(outcome),
  );
  if (there) {
    const title = `Instead of ${there.outcome.number}, which is in your cart`;
    return { is: "exchange", word: "Take", title, change: there.id };
  }
  const given = new Set(changes.map(({ outcome }) => outcome.gives_up || outcome.number));
  const held = registered.find((section) => isSame(section) && !given.has(section.number));
  if (row.seats.left === 0 && hasRoom(row.seats)) {
    const title = held
      ? `You keep ${held.number} until a seat comes`
      : `You would be number ${row.seats.waiting + 1} waiting`;
    return { is: "put", word: "Wait", title, kind: "wait", gives_up: held?.number ?? "" };
  }
  if (held) {
    const title = `You keep ${held.number} until the swap has gone through`;
    return { is: "put", word: "Swap", title, kind: "swap", gives_up: held.number };
  }
  return { is: "put", word: "Add", title: "Put it into the cart", kind: "add", gives_up: "" };
}

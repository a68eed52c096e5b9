import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { dayAndTime } from "../../../ui/text";
import { useSectionLink } from "../../catalogue/section/useSectionLink";

type Cart = Schemas["CartResponse"];
type Props = {
  cart: Cart;
  zone: string;
  isSending: boolean;
  onSend: (sends: Schemas["SubmissionWanted"]) => void;
};

/** What somebody has said yes to: good news, and one press to put it through. */
export function Granted({ cart, zone, isSending, onSend }: Props) {
  const link = useSectionLink();
  return (
    <ul aria-label="Granted" className="border-b border-hair">
      {cart.granted.map(({ number, name, by, until, in_exchange, changes }) => (
        <li
          key={number}
          className="border-l-4 border-l-pine px-[14px] py-2.5 text-[13px] leading-snug"
          data-testid={`granted-${number}`}
        >
          <b className="font-semibold text-pine">{by} has said yes</b> to {name}{" "}
          <Link className="link number" to={link(number)}>
            {number}
          </Link>
          {until && `, good until ${dayAndTime(new Date(until), zone)}`}.{" "}
          {in_exchange && `It takes the place of ${in_exchange}. `}
          <Button
            look="link"
            className="block min-h-[24px] py-[3px]"
            disabled={isSending || cart.ahead}
            onClick={() =>
              onSend({ mode: "all", changes, plans: [], fallback: "nothing", cart: null })
            }
          >
            {cart.ahead ? "Can be put through once your window opens" : "Put it through"}
          </Button>
        </li>
      ))}
    </ul>
  );
}

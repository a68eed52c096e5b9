import type { ButtonHTMLAttributes } from "react";
import { pressable } from "./pressable";

const LOOKS = {
  main: "border border-transparent bg-pine text-white font-semibold px-[15px] py-[7px] hover:bg-pine-deep aria-disabled:bg-hair aria-disabled:text-soft",
  plain:
    "border border-pine text-pine font-semibold px-3 py-1 hover:bg-pine hover:text-white aria-disabled:border-hair aria-disabled:text-soft aria-disabled:hover:bg-transparent",
  quiet: "text-soft px-1.5 py-1 hover:text-ink hover:bg-shade",
  link: "link text-left",
};

type Props = ButtonHTMLAttributes<HTMLButtonElement> & { look?: keyof typeof LOOKS };

/** Every button there is: main, plain, quiet, or a link in a sentence. */
export function Button({
  look = "plain",
  className = "",
  type = "button",
  disabled,
  onClick,
  ...rest
}: Props) {
  return (
    <button
      type={type}
      className={`rounded-sm ${LOOKS[look]} ${className}`}
      {...rest}
      {...pressable(disabled, onClick)}
    />
  );
}

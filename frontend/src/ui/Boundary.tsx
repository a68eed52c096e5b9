/** A part of the page that cannot be shown leaves the rest as it is, and a way on in its place. */
import { Component, type ReactNode } from "react";
import { api } from "../api/client";
import { Button } from "./Button";

type Props = {
  /** Which part it is, for the record. */
  where: "frame" | "screen" | "cart";
  /** With another one it is tried anew: what failed at one address may do at the next. */
  at?: string;
  children: ReactNode;
};

type State = { failed: boolean; at: string | undefined };

const WORDS = {
  frame: {
    title: "This page could not be shown",
    text: "It has been noted, so that it is mended. Nothing is lost: your cart and what you are registered for are kept.",
  },
  screen: {
    title: "This screen could not be shown",
    text: "It has been noted, so that it is mended. The other screens and your cart are there as ever.",
  },
  cart: {
    title: "The cart could not be shown",
    text: "It has been noted, so that it is mended. What is in it is kept, and nothing was put through.",
  },
};

export class Boundary extends Component<Props, State> {
  override state: State = { failed: false, at: this.props.at };

  static getDerivedStateFromError(): Partial<State> {
    return { failed: true };
  }

  static getDerivedStateFromProps(props: Props, state: State): Partial<State> | null {
    return props.at === state.at ? null : { failed: false, at: props.at };
  }

  override componentDidCatch(problem: unknown): void {
    const told = problem instanceof Error ? `${problem.name}: ${problem.message}` : String(problem);
    const { pathname } = window.location;
    const body = {
      where: this.props.where,
      address: pathname.replace(/\/shared\/.*/, "/shared/…").slice(0, 200),
      problem: told.slice(0, 300) || "nothing was said",
    };
    // Whether it arrives or not, the page stands as it is.
    api.POST("/api/failed-pages", { body }).catch(() => {});
  }

  override render(): ReactNode {
    if (!this.state.failed) return this.props.children;
    const { title, text } = WORDS[this.props.where];
    return (
      <section role="alert" className="mx-auto max-w-md p-6">
        <h2 className="text-[22px]">{title}</h2>
        <p className="mt-2 text-soft">{text}</p>
        <div className="mt-4 flex flex-wrap gap-3">
          <Button look="main" onClick={() => this.setState({ failed: false })}>
            Try again
          </Button>
          <Button onClick={() => window.location.reload()}>Load the page anew</Button>
          {this.props.where === "frame" && (
            <a className="link self-center" href="/">
              To the first page
            </a>
          )}
        </div>
      </section>
    );
  }
}

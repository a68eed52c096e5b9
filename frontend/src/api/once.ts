/**
 * What must happen once carries a key from the press until an answer says what became of it. After
 * a lost answer the very same thing is sent with the same key, and the server does it once; something
 * else, or the same once more after an answer, gets a key of its own.
 */
import { type UseMutationOptions, useMutation } from "@tanstack/react-query";
import { useRef } from "react";
import { Problem } from "./problem";

/** Whether it may have been done although this is what came back. */
export function mayBeDone(problem: unknown): boolean {
  return !(problem instanceof Problem) || problem.status === 0 || problem.status >= 500;
}

/** The keys of what has had no answer yet, by what was asked for. */
export class OnceKeys {
  readonly #open = new Map<string, string>();

  of(asked: unknown): string {
    const what = JSON.stringify(asked);
    const key = this.#open.get(what) ?? crypto.randomUUID();
    this.#open.set(what, key);
    return key;
  }

  answered(asked: unknown): void {
    this.#open.delete(JSON.stringify(asked));
  }
}

type Options<Answer, Asked> = Omit<UseMutationOptions<Answer, Error, Asked>, "mutationFn">;

/** A mutation that is done once for a press, however often its answer is lost. */
export function useOnce<Answer, Asked>(
  send: (asked: Asked, header: { "Idempotency-Key": string }) => Promise<Answer>,
  options: Options<Answer, Asked> = {},
) {
  const keys = useRef<OnceKeys>(null);
  keys.current ??= new OnceKeys();
  const known = keys.current;
  return useMutation<Answer, Error, Asked>({
    ...options,
    mutationFn: async (asked) => {
      try {
        const answer = await send(asked, { "Idempotency-Key": known.of(asked) });
        known.answered(asked);
        return answer;
      } catch (problem) {
        if (!mayBeDone(problem)) {
          known.answered(asked);
          throw problem;
        }
        const [status, title] =
          problem instanceof Problem ? [problem.status, problem.message] : [0, "No answer"];
        throw new Problem(status, title, "It may have been done. Press again: it is done once.");
      }
    },
  });
}

import { Problem } from "../../../api/problem";

export const TRIES = 30;

/**
 * Ask again and again, with growing pauses, while no answer comes or it says that it is only for now.
 * What is asked must be such that asking twice does no harm.
 */
export async function untilAnswered<T>(
  ask: () => Promise<T>,
  onTrouble: () => void,
  pause: (milliseconds: number) => Promise<void>,
): Promise<T> {
  for (let attempt = 1; ; attempt += 1) {
    try {
      return await ask();
    } catch (problem) {
      const passing = problem instanceof Problem && problem.isPassing;
      if (!passing || attempt === TRIES) throw problem;
      onTrouble();
      await pause(Math.min(500 * attempt, 3000));
    }
  }
}

import { describe, expect, test } from "vitest";
import { Problem } from "../../../api/problem";
import { TRIES, untilAnswered } from "./untilAnswered";

const lost = new Problem(0, "The connection is lost", "");
const busy = new Problem(503, "Too many are registering", "");
const refused = new Problem(422, "This key was used for other changes", "");

/** Answers in turn; a Problem is thrown. */
function server(...answers: (string | Problem)[]) {
  const asked = { times: 0, troubles: 0, pauses: [] as number[] };
  const ask = async () => {
    const answer = answers[Math.min(asked.times, answers.length - 1)];
    asked.times += 1;
    if (answer instanceof Problem) throw answer;
    return answer;
  };
  const given = untilAnswered(
    ask,
    () => {
      asked.troubles += 1;
    },
    async (milliseconds) => {
      asked.pauses.push(milliseconds);
    },
  );
  return { asked, given };
}

describe("a sending", () => {
  test("is sent once where there is an answer", async () => {
    const { asked, given } = server("confirmation 7");
    expect(await given).toBe("confirmation 7");
    expect(asked).toEqual({ times: 1, troubles: 0, pauses: [] });
  });
  test("is sent again after a lost connection and a busy server, with growing pauses", async () => {
    const { asked, given } = server(lost, busy, lost, "confirmation 7");
    expect(await given).toBe("confirmation 7");
    expect(asked).toEqual({ times: 4, troubles: 3, pauses: [500, 1000, 1500] });
  });
  test("is not sent again after an answer that is final", async () => {
    const { asked, given } = server(refused, "confirmation 7");
    await expect(given).rejects.toBe(refused);
    expect(asked.times).toBe(1);
  });
  test("has an end, and the pauses a bound", async () => {
    const { asked, given } = server(busy);
    await expect(given).rejects.toBe(busy);
    expect(asked.times).toBe(TRIES);
    expect(Math.max(...asked.pauses)).toBe(3000);
  });
});

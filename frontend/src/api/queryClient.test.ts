import { QueryObserver } from "@tanstack/react-query";
import { expect, test } from "vitest";
import { TruthfulQueryClient } from "./queryClient";

/** A query whose answers come when they are given. */
function asked(client: TruthfulQueryClient) {
  const given: ((answer: string) => void)[] = [];
  const observer = new QueryObserver(client, {
    queryKey: ["students", "fennick"],
    queryFn: () => new Promise<string>((give) => given.push(give)),
  });
  const end = observer.subscribe(() => {});
  return { given, observer, end };
}

const settled = () => new Promise((done) => setTimeout(done, 5));

test("a first answer from before a change is not shown", async () => {
  const client = new TruthfulQueryClient();
  const { given, observer, end } = asked(client);
  expect(given).toHaveLength(1);
  client.invalidateQueries({ queryKey: ["students"] });
  await settled();
  expect(given).toHaveLength(2);
  given[1]?.("released");
  given[0]?.("not released");
  await settled();
  expect(observer.getCurrentResult().data).toBe("released");
  expect(observer.getCurrentResult().isFetching).toBe(false);
  end();
});

test("what is not concerned, or nobody looks at, goes on", async () => {
  const client = new TruthfulQueryClient();
  const { given, observer, end } = asked(client);
  client.invalidateQueries({ queryKey: ["cart"] });
  await settled();
  expect(given).toHaveLength(1);
  given[0]?.("not released");
  await settled();
  expect(observer.getCurrentResult().data).toBe("not released");
  end();
});

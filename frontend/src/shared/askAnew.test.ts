import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, test } from "vitest";
import { askAnew } from "./askAnew";

test("an answer of before the change is not taken, also where it is the first", async () => {
  const answers: ((names: string[]) => void)[] = [];
  const queries = new QueryClient();
  const observer = new QueryObserver(queries, {
    queryKey: ["motifs", ""],
    queryFn: () => new Promise<string[]>((answer) => answers.push(answer)),
  });
  const leave = observer.subscribe(() => undefined);
  const asked = askAnew(queries, "motifs");
  await expect.poll(() => answers.length).toBe(2);
  answers[1]([]);
  answers[0](["Comet"]);
  await asked;
  expect(observer.getCurrentResult().data).toEqual([]);
  leave();
});

import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, it } from "vitest";
import { askAnew } from "../src/api/askAnew";

it("an answer that was on its way when something changed is not the last word", async () => {
  const client = new QueryClient();
  const answers: ((text: string) => void)[] = [];
  const observer = new QueryObserver<string>(client, {
    queryKey: ["sessions"],
    queryFn: () => new Promise((resolve) => answers.push(resolve)),
  });
  const stop = observer.subscribe(() => undefined);
  const asked = askAnew(client, { queryKey: ["sessions"] });
  await expect.poll(() => answers.length).toBe(2);
  answers[0]?.("of before");
  answers[1]?.("of now");
  await asked;
  expect(observer.getCurrentResult().data).toBe("of now");
  stop();
});

import { expect, it } from "vitest";
import { forgetMarks, markAgain, rememberMark, showMarks, takeBackMark } from "../src/frame/markHistory";

/** A value that is marked, as a station has it. */
const marked = (sessionId: string, scope: string) => {
  let value = 0;
  const put = (next: number) => {
    value = next;
  };
  return {
    get value() {
      return value;
    },
    set(next: number) {
      const before = value;
      rememberMark(sessionId, { scope, undo: () => put(before), redo: () => put(next) });
      value = next;
    },
  };
};

it("marks are taken back and made again one after the other", () => {
  const going = marked("a", "going");
  const hide = showMarks("a", "going");
  going.set(1);
  going.set(2);
  expect([takeBackMark("a"), going.value]).toEqual([true, 1]);
  expect([takeBackMark("a"), going.value]).toEqual([true, 0]);
  expect(takeBackMark("a")).toBe(false);
  expect([markAgain("a"), markAgain("a"), markAgain("a"), going.value]).toEqual([true, true, false, 2]);
  takeBackMark("a");
  going.set(7);
  expect(markAgain("a")).toBe(false);
  expect([takeBackMark("a"), going.value]).toEqual([true, 1]);
  hide();
});

it("what is out of sight, of another session or applied is not touched", () => {
  const [going, taken, other] = [marked("b", "going"), marked("b", "taken"), marked("c", "going")];
  const hideGoing = showMarks("b", "going");
  const hideTaken = showMarks("b", "taken");
  showMarks("c", "going");
  going.set(1);
  taken.set(1);
  other.set(1);
  hideTaken();
  expect([takeBackMark("b"), going.value, taken.value, other.value]).toEqual([true, 0, 1, 1]);
  expect(takeBackMark("b")).toBe(false);
  showMarks("b", "taken");
  forgetMarks("b", "taken");
  expect(takeBackMark("b")).toBe(false);
  expect([markAgain("b"), going.value]).toEqual([true, 1]);
  hideGoing();
});

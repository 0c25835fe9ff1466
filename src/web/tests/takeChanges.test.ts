import { describe, expect, it } from "vitest";
import type { LoggedTake, TakeLogRow } from "../src/api/types";
import { changed, changedAll, inCell, neighbour, wished } from "../src/record/takeChanges";

const take = (
  id: string,
  track: string | null,
  more: Partial<LoggedTake["file"]["take"]> = {},
  placed: LoggedTake["placed"] = [],
) =>
  ({
    file: { id, name: `${id}.wav`, take: { track, number: 1, pass: 1, isKeeper: false, note: null, ...more } },
    placed,
  }) as unknown as LoggedTake;

const row = (pass: number, ...takes: LoggedTake[]): TakeLogRow => ({ pass, number: null, takes });

describe("what is to change about a take", () => {
  const plain = take("a", "Cello");
  const kept = take("b", "Cello", { isKeeper: true, note: "breath" }, [{ track: "Cello", seconds: 12 }]);

  it("what says what is so already is no change", () => {
    expect(changed({}, plain, { isKeeper: false })).toEqual({});
    expect(changed({}, kept, { note: " breath " })).toEqual({});
    expect(changed({}, plain, { takeOff: true })).toEqual({});
    const once = changed({}, plain, { isKeeper: true });
    expect(once).toEqual({ a: { fileId: "a", isKeeper: true, note: null, place: null, takeOff: false } });
    expect(changed(once, plain, { isKeeper: false })).toEqual({});
  });

  it("several things and several takes stand beside each other", () => {
    const changes = changedAll(changed({}, plain, { note: "low" }), [plain, kept], { isKeeper: true });
    expect(changes).toEqual({ a: { fileId: "a", isKeeper: true, note: "low", place: null, takeOff: false } });
    expect(wished(plain, changes)).toEqual({ isKeeper: true, note: "low", placed: "", isChanged: true });
  });

  it("where it is placed is told as it will be", () => {
    expect(wished(kept, {}).placed).toBe("at 0:12");
    expect(wished(kept, changed({}, kept, { takeOff: true })).placed).toBe("");
    expect(wished(kept, changed({}, kept, { place: { track: "Voice", seconds: 61 } })).placed).toBe("Voice at 1:01");
    expect(wished(plain, changed({}, plain, { place: { track: null, seconds: null } })).placed).toBe("at its time");
    expect(wished(take("c", "Cello", {}, [{ track: "Voice", seconds: null }]), {}).placed).toBe("Voice placed");
  });
});

describe("the arrows", () => {
  const [a1, a2, b1, b2, c1, stray] = [
    take("a1", "Voice"),
    take("a2", "voice"),
    take("b1", "Cello"),
    take("b2", "Cello"),
    take("c1", "Voice"),
    take("stray", null),
  ] as const;
  const rows = [row(1, a1, b1, b2), undefined, row(3, stray), row(4, c1, a2)];
  const columns = ["Voice", "Cello", null];
  const to = (id: string | null, key: "Left" | "Right" | "Up" | "Down") =>
    neighbour(rows, columns, id, `Arrow${key}`)?.file.id ?? null;

  it("go along the pass, and along the track past passes without a take", () => {
    expect(inCell(rows[3] as TakeLogRow, "Voice").map((t) => t.file.id)).toEqual(["c1", "a2"]);
    expect([to("a1", "Right"), to("b1", "Right"), to("b2", "Left"), to("a1", "Left")]).toEqual([
      "b1",
      null,
      "a1",
      null,
    ]);
    expect([to("a1", "Down"), to("c1", "Down"), to("a2", "Up"), to("c1", "Up")]).toEqual(["c1", "a2", "c1", "a1"]);
    expect([to("b1", "Down"), to("b2", "Down"), to("b2", "Up"), to("stray", "Down")]).toEqual(["b2", null, "b1", null]);
  });

  it("begin at the first take", () => expect([to(null, "Down"), to("gone", "Left")]).toEqual(["a1", "a1"]));
});

import { describe, expect, it } from "vitest";
import type { DriveLoss, SessionLoss } from "../src/api/types";
import { besideWords, lossWords, mendedBy, sessionLossWords } from "../src/shelves/loss";

const none = { files: 0, bytes: 0 };
const some = (files: number) => ({ files, bytes: files * 1_000_000 });

const session = (more: Partial<SessionLoss>): SessionLoss => ({
  sessionId: "1",
  name: "261014 Net Mender",
  standsOnIt: false,
  lost: none,
  comesBack: none,
  silent: none,
  onlyOnceThen: none,
  ...more,
});

const drive = (more: Partial<DriveLoss>): DriveLoss => ({
  shelfId: "1",
  name: "Field card",
  kind: "Removable",
  connected: true,
  beside: [],
  lost: none,
  comesBack: none,
  silent: none,
  onlyOnceThen: none,
  sessions: [],
  notKnown: [],
  ...more,
});

describe("if a drive dies", () => {
  it("the worst is said first, and that nothing is lost is said too", () => {
    expect(lossWords(drive({}))).toEqual(["Nothing that a session uses is lost for good."]);
    expect(lossWords(drive({ notKnown: ["Low Water"] }))).toEqual([
      "Nothing is lost for good of what can be looked at now.",
    ]);
    expect(
      lossWords(
        drive({
          lost: some(1),
          silent: some(2),
          comesBack: some(3),
          onlyOnceThen: some(1),
          sessions: [session({ silent: some(2) }), session({ lost: some(1) })],
        }),
      ),
    ).toEqual([
      "1 file, 1.0 MB, is lost for good.",
      "1 session that stands elsewhere goes silent in part: 2 files.",
      "3 files, 3.0 MB, come back from a backup on another drive.",
      "1 file on other drives has no second place any more.",
    ]);
  });

  it("the shelves on the same drive go with it", () => {
    expect(besideWords([])).toBeNull();
    expect(besideWords(["Vault"])).toBe("Vault is on the same drive, and goes with it.");
    expect(besideWords(["A", "B", "C"])).toBe("A, B and C are on the same drive, and go with it.");
  });

  it("each session says what it loses, and where that is mended", () => {
    const playing = session({ lost: some(2), silent: some(2) });
    expect(sessionLossWords(playing)).toBe("2 lost for good, 2.0 MB; 2 go silent");
    expect(mendedBy(playing)).toEqual({ station: "copy-in", word: "Copy in" });
    expect(mendedBy({ ...playing, standsOnIt: true, silent: none })).toEqual({ station: "backups", word: "Back up" });
    expect(mendedBy(session({ onlyOnceThen: some(1) }))).toEqual({ station: "backups", word: "Back up" });
    expect(mendedBy(session({ comesBack: some(4) }))).toBeNull();
    expect(sessionLossWords(session({ silent: some(1), comesBack: some(1) }))).toBe(
      "1 goes silent; 1 comes back from a backup",
    );
  });
});

import { beforeEach, describe, expect, test, vi } from "vitest";
import type { ErrorDetail, Piece, Recipe } from "../../api/client";
import { type Kept, PieceKeeper, type Server, type Unsaved } from "./PieceKeeper";

const AWAY: ErrorDetail = { kind: "unreachable", what: "Nebrel", why: "the server does not answer", remedy: "Wait" };
const OVERTAKEN: ErrorDetail = { kind: "conflict", what: "piece", why: "it was changed in another window", remedy: "" };
const REFUSED: ErrorDetail = { kind: "invalid_value", what: "a depth", why: "it is too small", remedy: "Type more" };

type Doc = { depth: number; backing: number };
const recipe = (doc: Doc) => doc as unknown as Recipe;
const doc = (of: Recipe | undefined) => of as unknown as Doc;

/** A server that keeps a history, is slow on demand, and can be away. */
class FakeServer implements Server {
  history: Doc[] = [{ depth: 3, backing: 1 }];
  labels: string[] = ["brought"];
  at = 0;
  name = "moon";
  away = false;
  loseAnswers = false;
  /** Answers wait until they are let go. */
  held: (() => void)[] | undefined;
  asked: string[] = [];

  private piece = (): Piece =>
    ({
      id: "p",
      name: this.name,
      state: `${this.at} ${JSON.stringify(this.history[this.at])}`,
      recipe: recipe({ ...this.history[this.at] }),
      undo: this.labels[this.at],
    }) as unknown as Piece;

  private async answer<T>(what: string, act: () => T): Promise<T> {
    this.asked.push(what);
    if (this.away) throw AWAY;
    if (this.held) await new Promise<void>((go) => this.held?.push(go));
    const found = act();
    if (this.loseAnswers) throw AWAY;
    return found;
  }

  private check(state: string) {
    if (state !== this.piece().state) throw OVERTAKEN;
  }

  get = () => this.answer("get", this.piece);
  state = () => this.answer("state", () => ({ state: this.piece().state, name: this.name }));
  change: Server["change"] = (body) =>
    this.answer(`change ${JSON.stringify(body.recipe)}${body.amend ? " amend" : ""}`, () => {
      const next = doc(body.recipe);
      if (JSON.stringify(next) === JSON.stringify(this.history[this.at])) return this.piece();
      this.check(body.state);
      if (next.depth <= 0) throw REFUSED;
      this.push(next, body.label, body.amend);
      return this.piece();
    });
  step: Server["step"] = (way, state, steps) =>
    this.answer(way, () => {
      this.check(state);
      this.at = Math.min(this.history.length - 1, Math.max(0, this.at + (way === "undo" ? -steps : steps)));
      return this.piece();
    });
  rename = (name: string) =>
    this.answer("rename", () => {
      this.name = name;
      return this.piece();
    });
  restore = () => this.answer("restore", () => undefined);
  why = (error: unknown) => error as ErrorDetail;

  /** What another window does. */
  push(next: Doc, label = "elsewhere", amend = false) {
    this.history.length = this.labels.length = amend ? this.at : this.at + 1;
    this.history.push(next);
    this.labels.push(label);
    this.at = this.history.length - 1;
  }

  get now() {
    return this.history[this.at];
  }
}

let server: FakeServer;
let left: Unsaved | undefined;
let refusals: ErrorDetail[];
let said: string[];
const kept: Kept = {
  load: () => left,
  save: (unsaved) => {
    left = unsaved && (JSON.parse(JSON.stringify(unsaved)) as Unsaved);
  },
};

async function opened() {
  const keeper = new PieceKeeper({
    server,
    kept,
    held: () => false,
    onPiece: () => undefined,
    onRefused: (detail) => refusals.push(detail),
    onSay: (title) => said.push(title),
  });
  await keeper.load();
  return keeper;
}

const set = (part: Partial<Doc>) => (now: Recipe) => recipe({ ...doc(now), ...part });
const settled = () => vi.advanceTimersByTimeAsync(1);

beforeEach(() => {
  vi.useFakeTimers();
  server = new FakeServer();
  left = undefined;
  refusals = [];
  said = [];
});

describe("in order", () => {
  test("quick undos on a slow line end where the server is", async () => {
    const keeper = await opened();
    for (const depth of [4, 5, 6]) {
      keeper.edit(set({ depth }), `depth ${depth}`, true);
      await settled();
    }
    server.held = [];
    for (let i = 0; i < 3; i++) keeper.step("undo");
    for (let i = 0; i < 3; i++) {
      await settled();
      expect(server.held.length).toBe(1);
      server.held.shift()?.();
    }
    await settled();
    server.held = undefined;
    expect(doc(keeper.snapshot().recipe)).toEqual({ depth: 3, backing: 1 });
    expect(keeper.snapshot().save).toBe("saved");
    keeper.edit(set({ backing: 2 }), "backing", true);
    await settled();
    expect(server.now).toEqual({ depth: 3, backing: 2 });
  });

  test("several steps are gone back at once, and forward again", async () => {
    const keeper = await opened();
    for (const depth of [4, 5, 6]) {
      keeper.edit(set({ depth }), `depth ${depth}`, true);
      await settled();
    }
    keeper.step("undo", 2);
    await settled();
    expect(doc(keeper.snapshot().recipe)).toEqual({ depth: 4, backing: 1 });
    keeper.step("redo", 2);
    await settled();
    expect(doc(keeper.snapshot().recipe)).toEqual({ depth: 6, backing: 1 });
  });

  test("an undo after an edit undoes that edit, and an edit made meanwhile stands on the answer", async () => {
    const keeper = await opened();
    server.held = [];
    keeper.edit(set({ depth: 9 }), "depth", true);
    keeper.step("undo");
    keeper.edit(set({ backing: 5 }), "backing", true);
    for (let i = 0; i < 3; i++) {
      await settled();
      server.held.shift()?.();
    }
    await settled();
    expect(server.asked.filter((what) => what !== "get").map((what) => what.split(" ")[0])).toEqual(["change", "undo", "change"]);
    expect(server.now).toEqual({ depth: 3, backing: 5 });
  });

  test("a moving control is one step, another number a step of its own", async () => {
    const keeper = await opened();
    for (const depth of [4, 5, 6]) keeper.edit(set({ depth }), "depth", false);
    keeper.edit(set({ backing: 2 }), "backing", false);
    await vi.advanceTimersByTimeAsync(2000);
    expect(server.history).toEqual([
      { depth: 3, backing: 1 },
      { depth: 6, backing: 1 },
      { depth: 6, backing: 2 },
    ]);
  });

  test("one typing is one step, however often it rests", async () => {
    const keeper = await opened();
    const typing = {};
    for (const depth of [4, 5, 6]) {
      keeper.edit(set({ depth }), "text", false, { typing });
      await vi.advanceTimersByTimeAsync(1000);
      expect(server.now.depth).toBe(depth);
    }
    expect(server.history.length).toBe(2);
    keeper.step("undo");
    await settled();
    expect(server.now.depth).toBe(3);
    keeper.edit(set({ depth: 7 }), "text", false, { typing: {} });
    await vi.advanceTimersByTimeAsync(1000);
    expect(server.history).toEqual([
      { depth: 3, backing: 1 },
      { depth: 7, backing: 1 },
    ]);
  });
});

describe("refused", () => {
  test("what is refused goes back to its field and does not hold back what follows", async () => {
    const keeper = await opened();
    const refused = vi.fn();
    server.held = [];
    keeper.edit(set({ depth: -1 }), "depth", true, { refused });
    await settled();
    keeper.edit(set({ backing: 4 }), "backing", true);
    expect(doc(keeper.snapshot().recipe)).toEqual({ depth: -1, backing: 4 });
    for (let i = 0; i < 2; i++) {
      await settled();
      server.held.shift()?.();
    }
    await settled();
    expect(refused).toHaveBeenCalledWith(REFUSED);
    expect(refusals).toEqual([]);
    expect(server.now).toEqual({ depth: 3, backing: 4 });
    expect(keeper.snapshot().save).toBe("saved");
  });
});

describe("away", () => {
  test("what is edited meanwhile is kept, and sent when the server is back", async () => {
    const keeper = await opened();
    server.away = true;
    keeper.edit(set({ depth: 8 }), "depth", true);
    await settled();
    keeper.edit(set({ backing: 2 }), "backing", true);
    await settled();
    expect(keeper.snapshot().save).toBe("away");
    expect(await keeper.settle()).toBe(false);
    expect(doc(left?.recipe)).toEqual({ depth: 8, backing: 2 });
    server.away = false;
    await vi.advanceTimersByTimeAsync(10_000);
    expect(server.history.length).toBe(3);
    expect(server.now).toEqual({ depth: 8, backing: 2 });
    expect(keeper.snapshot().save).toBe("saved");
    expect(left).toBeUndefined();
  });

  test("a reload keeps it", async () => {
    const first = await opened();
    server.away = true;
    first.edit(set({ depth: 8 }), "depth", false);
    first.leave();
    await settled();
    server.away = false;
    const second = await opened();
    await settled();
    expect(server.now.depth).toBe(8);
    expect(second.snapshot().save).toBe("saved");
  });

  test("a reload after another window changed it asks", async () => {
    const first = await opened();
    server.away = true;
    first.edit(set({ depth: 8 }), "depth", true);
    await settled();
    first.leave();
    server.away = false;
    server.push({ depth: 3, backing: 6 });
    const second = await opened();
    expect(second.snapshot().save).toBe("overtaken");
    await second.keepMine();
    expect(server.now).toEqual({ depth: 8, backing: 6 });
  });

  test("what was kept without an answer is no other window's, after an undo or a reload", async () => {
    const keeper = await opened();
    server.loseAnswers = true;
    keeper.edit(set({ depth: 8 }), "depth", true);
    await settled();
    server.loseAnswers = false;
    keeper.step("undo");
    keeper.edit(set({ backing: 2 }), "backing", true);
    await vi.advanceTimersByTimeAsync(3000);
    expect([server.now, keeper.snapshot().save]).toEqual([{ depth: 3, backing: 2 }, "saved"]);

    server.loseAnswers = true;
    keeper.edit(set({ depth: 9 }), "depth", true);
    await settled();
    server.away = true;
    keeper.edit(set({ backing: 5 }), "backing", true);
    await settled();
    server.away = server.loseAnswers = false;
    const after = await opened();
    await settled();
    expect([server.now, after.snapshot().save]).toEqual([{ depth: 9, backing: 5 }, "saved"]);
  });

  test("a database that is held by another is tried again", async () => {
    const keeper = await opened();
    const change = server.change;
    server.change = () => Promise.reject({ ...OVERTAKEN, what: "data folder" });
    keeper.edit(set({ depth: 8 }), "depth", true);
    await settled();
    expect(keeper.snapshot().save).toBe("away");
    server.change = change;
    await vi.advanceTimersByTimeAsync(5000);
    expect(server.now.depth).toBe(8);
  });

  test("what the server chokes on can be undone", async () => {
    const keeper = await opened();
    server.change = () => Promise.reject({ ...AWAY, kind: "error" });
    keeper.edit(set({ depth: 8 }), "depth", true);
    await settled();
    keeper.step("undo");
    await keeper.poll();
    expect(doc(keeper.snapshot().recipe).depth).toBe(3);
    expect(keeper.snapshot().save).toBe("saved");
  });

  test.each(["change", "undo"])("a lost answer to %s is not done twice", async (what) => {
    const keeper = await opened();
    keeper.edit(set({ depth: 4 }), "depth", true);
    await settled();
    keeper.edit(set({ depth: 5 }), "deeper", true);
    await settled();
    server.loseAnswers = true;
    if (what === "change") keeper.edit(set({ depth: 6 }), "deepest", true);
    else keeper.step("undo");
    await settled();
    server.loseAnswers = false;
    await vi.advanceTimersByTimeAsync(5000);
    expect(server.now.depth).toBe(what === "change" ? 6 : 4);
    expect(server.history.length).toBe(what === "change" ? 4 : 3);
    expect(keeper.snapshot().save).toBe("saved");
    expect(doc(keeper.snapshot().recipe).depth).toBe(server.now.depth);
  });
});

describe("another window", () => {
  test("its change is taken over where nothing of ours is open", async () => {
    const keeper = await opened();
    server.push({ depth: 7, backing: 1 });
    await keeper.poll();
    expect(doc(keeper.snapshot().recipe).depth).toBe(7);
  });

  test("news that are older than our own change are not taken", async () => {
    const keeper = await opened();
    server.held = [];
    const poll = keeper.poll();
    await settled();
    keeper.edit(set({ depth: 5 }), "depth", true);
    await settled();
    server.held.splice(0).forEach((go) => go());
    await poll;
    await settled();
    server.held = undefined;
    expect(doc(keeper.snapshot().recipe).depth).toBe(5);
    expect(keeper.snapshot().save).toBe("saved");
  });

  test("mine is made anew on theirs, as one step", async () => {
    const keeper = await opened();
    server.push({ depth: 7, backing: 1 });
    keeper.edit(set({ backing: 2 }), "backing", true);
    await settled();
    expect(keeper.snapshot().save).toBe("overtaken");
    expect(doc(keeper.snapshot().recipe)).toEqual({ depth: 3, backing: 2 });
    await keeper.keepMine();
    expect(server.now).toEqual({ depth: 7, backing: 2 });
    expect(server.history.length).toBe(3);
    expect(keeper.snapshot().save).toBe("saved");
  });

  test("theirs is taken, and mine waits under redo", async () => {
    const keeper = await opened();
    server.push({ depth: 7, backing: 1 });
    keeper.edit(set({ backing: 2 }), "backing", true);
    await settled();
    const told: string[] = [];
    keeper.subscribe(() => told.push(keeper.snapshot().save));
    await keeper.takeTheirs();
    expect(told).not.toContain("away");
    expect(told.at(-1)).toBe("saved");
    expect(server.now).toEqual({ depth: 7, backing: 1 });
    expect(said).toEqual(["Theirs was taken"]);
    keeper.step("redo");
    await settled();
    expect(server.now).toEqual({ depth: 3, backing: 2 });
  });

  test("an undo of what is no longer the last change undoes nothing", async () => {
    const keeper = await opened();
    keeper.edit(set({ depth: 4 }), "depth", true);
    await settled();
    server.push({ depth: 4, backing: 9 });
    keeper.step("undo");
    await settled();
    expect(server.now).toEqual({ depth: 4, backing: 9 });
    expect(doc(keeper.snapshot().recipe)).toEqual({ depth: 4, backing: 9 });
    expect(said).toEqual(["Changed in another window"]);
  });
});

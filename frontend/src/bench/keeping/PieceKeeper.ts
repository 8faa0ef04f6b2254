import type { ErrorDetail, Piece, Recipe } from "../../api/client";
import { passing } from "../../shared/passing";
import { merge, same } from "./merge";

/** How long a moving control must rest before its state is kept. */
const REST_MS = 450;
/** How long is waited before the server is tried again, and at most. */
const FIRST_RETRY_MS = 1000;
const LAST_RETRY_MS = 8000;

/** A change of the recipe on its way to the server. */
export interface Edit {
  do: "edit";
  /** What it was made on, and what it made of it. */
  began: Recipe;
  recipe: Recipe;
  label: string;
  /** Edits of one typing become one step. */
  typing?: object;
  /** Where a refusal goes: the field that made it. */
  refused?: (detail: ErrorDetail) => void;
}

type Deed = Edit | { do: "undo" | "redo"; steps: number } | { do: "rename"; name: string };

/** What a window keeps over a reload while the server has not got it. */
export interface Unsaved {
  state: string;
  began: Recipe;
  recipe: Recipe;
  label: string;
  /** What was sent without an answer: the server may have it, or not. */
  sent?: Recipe;
}

/** What the keeper asks of the world; replaced in tests. */
export interface Server {
  get: () => Promise<Piece>;
  state: () => Promise<{ state: string; name: string }>;
  change: (body: { recipe: Recipe; label: string; state: string; amend: boolean }, leaving: boolean) => Promise<Piece>;
  step: (way: "undo" | "redo", state: string, steps: number) => Promise<Piece>;
  rename: (name: string) => Promise<Piece>;
  restore: () => Promise<unknown>;
  /** Why a call failed. */
  why: (error: unknown) => ErrorDetail;
}

export interface Kept {
  load: () => Unsaved | undefined;
  save: (unsaved: Unsaved | undefined) => void;
}

export interface KeeperOptions {
  server: Server;
  kept: Kept;
  /** Whether a control is held: however slowly it moves, it is one step. */
  held: () => boolean;
  /** A piece as the server has it now. */
  onPiece: (piece: Piece) => void;
  /** A change that no field made was refused, or something is worth saying. */
  onRefused: (detail: ErrorDetail) => void;
  onSay: (title: string, text: string) => void;
}

export type SaveState = "saved" | "saving" | "unsaved" | "away" | "overtaken" | "gone";

/** What the screen shows of it. */
export interface Keeping {
  piece: Piece | undefined;
  /** Why it could not be loaded at all. */
  failure: ErrorDetail | undefined;
  /** The recipe as edited, ahead of the kept one while something is on its way. */
  recipe: Recipe | undefined;
  name: string;
  save: SaveState;
  /** Why the server does not take it, while it is tried again. */
  trouble: ErrorDetail | undefined;
  /** Whether anything would be lost with this window. */
  pending: boolean;
}

const overtakes = ({ kind, what }: ErrorDetail) => kind === "conflict" && what === "piece";
// Another conflict is of two writers at one moment, and passes.
const retryable = (detail: ErrorDetail) => passing(detail) || (detail.kind === "conflict" && !overtakes(detail));

/**
 * One piece in one window: edited ahead of the server, everything kept in order.
 *
 * Edits, undos and renames stand in one queue and are sent one after the other; each is made
 * on the state that the one before it was answered with. What the server does not get is tried
 * again and kept in the window; what another window did meanwhile is taken over, or waits for
 * the person to choose.
 */
export class PieceKeeper {
  private piece: Piece | undefined;
  private failure: ErrorDetail | undefined;
  private open: Edit | undefined;
  private queue: Deed[] = [];
  private sending = false;
  private trouble: ErrorDetail | undefined;
  private theirs: Piece | undefined;
  /** A change whose answer did not come: the server may have it, or not. */
  private unanswered: Recipe | undefined;
  private gone = false;
  private restTimer: ReturnType<typeof setTimeout> | undefined;
  private retryTimer: ReturnType<typeof setTimeout> | undefined;
  private retryMs = FIRST_RETRY_MS;
  /** Counts what was sent and answered, so that older news is known as such. */
  private turn = 0;
  private lastTyping: { typing: object; state: string } | undefined;
  private listeners = new Set<() => void>();
  private waiting: (() => void)[] = [];
  private shown: Keeping;

  constructor(private readonly options: KeeperOptions) {
    this.shown = this.look();
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };

  snapshot = (): Keeping => this.shown;

  /** Nothing is on its way and nobody looks: the keeper may be dropped. */
  get idle() {
    return this.listeners.size === 0 && !this.shown.pending;
  }

  private look(): Keeping {
    const last = this.lastEdit();
    const renamed = this.queue.findLast((deed) => deed.do === "rename");
    const pending = this.open !== undefined || this.queue.length > 0;
    return {
      piece: this.piece,
      failure: this.failure,
      recipe: last?.recipe ?? this.piece?.recipe,
      name: renamed?.do === "rename" ? renamed.name : (this.piece?.name ?? ""),
      save: this.gone ? "gone" : this.theirs ? "overtaken" : this.trouble ? "away" : this.sending ? "saving" : pending ? "unsaved" : "saved",
      trouble: this.trouble,
      pending,
    };
  }

  private tell() {
    this.shown = this.look();
    this.remember();
    for (const listener of this.listeners) listener();
    if (!this.shown.pending || this.theirs || this.trouble || this.gone) {
      for (const done of this.waiting.splice(0)) done();
    }
  }

  private edits(): Edit[] {
    const list = this.queue.filter((deed): deed is Edit => deed.do === "edit");
    return this.open ? [...list, this.open] : list;
  }

  private lastEdit = () => this.open ?? this.queue.findLast((deed): deed is Edit => deed.do === "edit");

  /** All that is not kept yet as one change. */
  private unsaved(): Unsaved | undefined {
    const edits = this.edits();
    const last = edits.at(-1);
    if (!last || !this.piece) return undefined;
    // What waits for a choice is asked for again after a reload.
    const state = this.theirs ? "" : this.piece.state;
    const first = this.queue.at(0);
    const sent = this.unanswered ?? (this.sending && first?.do === "edit" ? first.recipe : undefined);
    return { state, began: edits[0].began, recipe: last.recipe, label: last.label, sent };
  }

  private remember() {
    // What only rests a moment is not written at every move of a control.
    if (this.queue.length > 0 || !this.open) this.options.kept.save(this.unsaved());
  }

  load = async () => {
    if (this.sending) return;
    try {
      const fresh = await this.options.server.get();
      this.failure = undefined;
      this.gone = false;
      this.adopt(fresh);
      this.recover();
    } catch (error) {
      if (!this.piece) this.failure = this.options.server.why(error);
    }
    this.tell();
    void this.run();
  };

  /** What a reload of the window left behind. */
  private recover() {
    const left = this.options.kept.load();
    if (!left || !this.piece || this.edits().length > 0) return;
    if (same(left.recipe, this.piece.recipe)) return;
    if (left.recipe.schema_version !== this.piece.recipe.schema_version) {
      this.options.onSay(left.label, "It was not saved before Nebrel was updated, and the update cannot take it over. Make it again.");
      return;
    }
    this.queue.push({ do: "edit", began: left.began, recipe: left.recipe, label: left.label });
    if (left.state === this.piece.state) this.rebase();
    else if (left.sent && same(left.sent, this.piece.recipe)) this.edits()[0].began = this.piece.recipe;
    else this.theirs = this.piece;
  }

  private adopt(fresh: Piece) {
    this.piece = fresh;
    this.turn += 1;
    this.options.onPiece(fresh);
    this.rebase();
  }

  /** Edits still to be sent are made anew on the piece as it stands now. */
  private rebase() {
    if (!this.piece || this.theirs) return;
    let now = this.piece.recipe;
    for (const edit of this.edits()) {
      const next = same(edit.began, now) ? edit.recipe : merge(edit.began, edit.recipe, now);
      edit.began = now;
      edit.recipe = next;
      now = next;
    }
  }

  edit = (change: (recipe: Recipe) => Recipe, label: string, resting: boolean, by: Pick<Edit, "typing" | "refused"> = {}) => {
    const before = this.lastEdit()?.recipe ?? this.piece?.recipe;
    if (!before) return;
    // Another number than the one still resting: that one becomes a step of its own.
    if (this.open && (this.open.label !== label || this.open.typing !== by.typing)) this.close();
    if (this.open) this.open = { ...this.open, recipe: change(this.open.recipe), ...by };
    else this.open = { do: "edit", began: before, recipe: change(before), label, ...by };
    clearTimeout(this.restTimer);
    const rest = () => {
      if (this.options.held() && !resting) this.restTimer = setTimeout(rest, REST_MS);
      else this.close();
    };
    this.restTimer = setTimeout(rest, resting ? 0 : REST_MS);
    this.tell();
  };

  private close() {
    clearTimeout(this.restTimer);
    if (!this.open) return;
    this.queue.push(this.open);
    this.open = undefined;
    this.tell();
    void this.run();
  }

  /** Goes back, or forward again, so many steps. */
  step = (way: "undo" | "redo", steps = 1) => {
    this.close();
    if (this.theirs || this.gone) return;
    // What the server has not got is undone here: it may be what it chokes on.
    if (way === "undo" && this.trouble && !this.sending && this.queue.at(-1)?.do === "edit") {
      const undone = this.queue.pop() as Edit;
      // The server may have got it, and only its answer was lost.
      if (this.unanswered === undone.recipe) {
        this.queue.push({ do: "edit", began: undone.recipe, recipe: undone.began, label: undone.label });
        void this.run();
      }
      this.tell();
      return;
    }
    this.queue.push({ do: way, steps });
    this.tell();
    void this.run();
  };

  rename = (name: string) => {
    this.close();
    this.queue.push({ do: "rename", name });
    this.tell();
    void this.run();
  };

  /** Resolves once everything is kept, with true, or cannot be kept for now. */
  settle = async (): Promise<boolean> => {
    this.close();
    if (this.shown.pending && !this.theirs && !this.trouble && !this.gone) {
      await new Promise<void>((done) => this.waiting.push(done));
    }
    return !this.shown.pending && !this.theirs && !this.gone;
  };

  private async run() {
    if (this.sending || this.theirs || this.gone || !this.piece) return;
    while (this.queue.length > 0 && !this.theirs && !this.gone) {
      const deed = this.queue[0];
      this.sending = true;
      this.tell();
      try {
        const fresh = await this.send(deed, this.piece);
        this.sending = false;
        this.queue.shift();
        if (deed.do !== "rename") this.unanswered = undefined;
        this.reached();
        if (deed.do === "edit") {
          // The server writes out what was left to it: what was made on this stands on that.
          const next = this.edits()[0];
          if (next && same(next.began, deed.recipe)) next.began = deed.recipe;
          this.lastTyping = deed.typing && { typing: deed.typing, state: fresh.state };
        }
        this.adopt(fresh);
        this.tell();
      } catch (error) {
        this.sending = false;
        if (!(await this.failed(deed, this.options.server.why(error)))) return;
      }
    }
  }

  private send(deed: Deed, piece: Piece, leaving = false): Promise<Piece> {
    const { server } = this.options;
    if (deed.do === "rename") return server.rename(deed.name);
    if (deed.do !== "edit") return server.step(deed.do, piece.state, deed.steps);
    const amend = deed.typing !== undefined && deed.typing === this.lastTyping?.typing && piece.state === this.lastTyping.state;
    return server.change({ recipe: deed.recipe, label: deed.label, state: piece.state, amend }, leaving);
  }

  /** What becomes of a deed that failed; whether the next may be tried. */
  private async failed(deed: Deed, detail: ErrorDetail): Promise<boolean> {
    if (retryable(detail)) {
      this.trouble = detail;
      if (deed.do === "edit" && ["unreachable", "timed_out"].includes(detail.kind)) this.unanswered ??= deed.recipe;
      this.tryLater();
      this.tell();
      return false;
    }
    if (detail.kind === "not_found" && detail.what === "piece") {
      this.gone = true;
      this.tell();
      return false;
    }
    if (overtakes(detail)) return this.overtaken(deed);
    this.queue.shift();
    this.rebase();
    this.tell();
    if (deed.do === "edit" && deed.refused) deed.refused(detail);
    else this.options.onRefused(detail);
    return true;
  }

  /** The piece was changed elsewhere. */
  private async overtaken(deed: Deed): Promise<boolean> {
    try {
      const fresh = await this.options.server.get();
      if (this.unanswered && same(this.unanswered, fresh.recipe)) {
        // It was this window, whose answer was lost.
        this.unanswered = undefined;
        this.adopt(fresh);
        this.tell();
        return true;
      }
      if (deed.do !== "edit") this.queue.shift();
      if (this.edits().length > 0) this.theirs = fresh;
      else {
        this.queue = this.queue.filter(({ do: what }) => what === "rename");
        if (deed.do !== "rename")
          this.options.onSay("Changed in another window", `What was to be ${deed.do === "redo" ? "redone" : "undone"} is no longer the last change.`);
      }
      if (this.theirs) {
        this.turn += 1;
        this.options.onPiece(fresh);
      } else this.adopt(fresh);
      this.tell();
      return this.theirs === undefined;
    } catch (error) {
      this.trouble = this.options.server.why(error);
      this.tryLater();
      this.tell();
      return false;
    }
  }

  private tryLater() {
    clearTimeout(this.retryTimer);
    this.retryTimer = setTimeout(() => void this.again(), this.retryMs);
    this.retryMs = Math.min(LAST_RETRY_MS, this.retryMs * 2);
  }

  /** The server answered. */
  private reached() {
    clearTimeout(this.retryTimer);
    this.trouble = undefined;
    this.retryMs = FIRST_RETRY_MS;
  }

  /** Try at once what could not be kept. */
  again = async () => {
    if (this.sending) return;
    clearTimeout(this.retryTimer);
    if (!this.piece) return this.load();
    // The last answer may have been lost on its way: what was done is not done again.
    const first = this.queue.at(0);
    if (this.piece && first && (first.do === "undo" || first.do === "redo")) {
      this.sending = true;
      try {
        const fresh = await this.options.server.get();
        if (fresh.state !== this.piece.state) {
          this.queue.shift();
          this.adopt(fresh);
        }
        this.reached();
      } catch (error) {
        this.trouble = this.options.server.why(error);
        this.tryLater();
      } finally {
        this.sending = false;
      }
      this.tell();
      if (this.trouble) return;
    }
    if (this.queue.length > 0) await this.run();
    else await this.poll();
  };

  /** Hear whether the piece has become another, and whether the server is there. */
  poll = async () => {
    if (this.sending || this.theirs || !this.piece) return;
    const turn = this.turn;
    try {
      const news = await this.options.server.state();
      if (this.sending || turn !== this.turn) return;
      const was = this.trouble !== undefined || this.gone;
      this.gone = false;
      this.reached();
      const other = news.state !== this.piece.state || news.name !== this.piece.name;
      // With something of its own on the way, sending that finds out.
      if (other && this.edits().length === 0 && this.queue.length === 0) {
        const fresh = await this.options.server.get();
        if (turn === this.turn && !this.sending) this.adopt(fresh);
      }
      if (was || other) this.tell();
      if (this.queue.length > 0) await this.run();
    } catch (error) {
      if (this.sending || turn !== this.turn) return;
      const detail = this.options.server.why(error);
      if (detail.kind === "not_found") this.gone = true;
      else this.trouble = detail;
      this.tell();
    }
  };

  /** Leave mine, which Redo brings back, for what the other window made. */
  takeTheirs = async () => {
    const theirs = this.theirs;
    const mine = this.unsaved();
    if (!theirs || this.sending) return;
    this.sending = true;
    this.tell();
    const { server } = this.options;
    let fresh = theirs;
    let waits = false;
    try {
      if (mine) {
        const step = await server.change({ recipe: mine.recipe, label: mine.label, state: theirs.state, amend: false }, false);
        if (step.state !== theirs.state) {
          fresh = await server.step("undo", step.state, 1);
          waits = true;
        }
      }
    } catch (error) {
      const detail = server.why(error);
      if (retryable(detail) || overtakes(detail)) {
        this.sending = false;
        if (overtakes(detail)) this.theirs = await server.get().catch(() => theirs);
        this.options.onRefused(detail);
        this.tell();
        return;
      }
      // Mine cannot be kept as it is; theirs stands.
    }
    this.sending = false;
    this.drop();
    this.theirs = undefined;
    this.adopt(fresh);
    if (waits) this.options.onSay("Theirs was taken", "Your change waits under Redo.");
    this.tell();
  };

  /** Make mine anew on what the other window made, as one more step. */
  keepMine = async () => {
    const theirs = this.theirs;
    const mine = this.unsaved();
    if (!theirs || !mine) return;
    this.drop();
    this.theirs = undefined;
    const edit: Edit = { do: "edit", began: mine.began, recipe: mine.recipe, label: mine.label };
    // Where the two do not go together, mine as it was.
    edit.refused = () => {
      if (!this.piece) return;
      this.queue.unshift({ do: "edit", began: this.piece.recipe, recipe: mine.recipe, label: mine.label });
      void this.run();
    };
    this.queue.push(edit);
    this.adopt(theirs);
    this.tell();
    await this.run();
  };

  putBack = async () => {
    try {
      await this.options.server.restore();
      this.gone = false;
      await this.load();
    } catch (error) {
      this.options.onRefused(this.options.server.why(error));
    }
  };

  private drop() {
    clearTimeout(this.restTimer);
    this.open = undefined;
    this.queue = this.queue.filter(({ do: what }) => what === "rename");
  }

  /** The window goes: what is not kept is written down, and sent while there is time. */
  leave = () => {
    const unsaved = this.unsaved();
    this.options.kept.save(unsaved);
    if (!unsaved || !this.piece || this.theirs || this.sending) return;
    const edit: Edit = { do: "edit", began: unsaved.began, recipe: unsaved.recipe, label: unsaved.label };
    edit.typing = this.edits().at(-1)?.typing;
    this.send(edit, this.piece, true).catch(() => undefined);
  };
}

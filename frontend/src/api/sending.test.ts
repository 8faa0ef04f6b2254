import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { detailOf } from "./client";
import { sendFile, useSendings } from "./sending";

class Sent {
  static last: Sent;
  upload: { onprogress?: (event: { loaded: number; total: number }) => void; onload?: () => void } = {};
  status = 0;
  responseText = "";
  onload = () => {};
  onerror = () => {};
  onabort = () => {};
  form?: FormData;
  constructor() {
    Sent.last = this;
  }
  open() {}
  send(form: FormData) {
    this.form = form;
  }
  abort() {
    this.onabort();
  }
  answer(status: number, text: string) {
    this.status = status;
    this.responseText = text;
    this.onload();
  }
}

beforeEach(() => vi.stubGlobal("XMLHttpRequest", Sent));
afterEach(() => vi.unstubAllGlobals());

const file = new File(["1234"], "moon.png");
const list = () => useSendings.getState().list;

test("a file is told while it is sent and read, and no longer", async () => {
  const asked = sendFile<{ id: string }>("/api/pieces", file, { steps: "3" });
  expect(list()).toMatchObject([{ name: "moon.png", sent: 0 }]);
  Sent.last.upload.onprogress?.({ loaded: 1, total: 4 });
  expect(list()[0].sent).toBe(0.25);
  Sent.last.upload.onload?.();
  expect(list()[0].sent).toBe(1);
  expect(Sent.last.form?.get("steps")).toBe("3");
  Sent.last.answer(201, '{"id": "a"}');
  expect(await asked).toEqual({ id: "a" });
  expect(list()).toEqual([]);
});

test("what is refused, not JSON, gone or called off says why", async () => {
  const why = async (end: (sent: Sent) => void) => {
    const asked = sendFile("/api/pieces", file).catch((error: unknown) => detailOf(error));
    end(Sent.last);
    return asked;
  };
  const error = { kind: "unreadable", what: "moon.png", why: "it is not whole", remedy: "Save it again" };
  expect(await why((sent) => sent.answer(422, JSON.stringify({ error })))).toEqual(error);
  expect(await why((sent) => sent.answer(502, "<html>"))).toMatchObject({ kind: "unreachable" });
  expect(await why((sent) => sent.answer(200, "half {"))).toMatchObject({ kind: "unreachable" });
  expect(await why((sent) => sent.onerror())).toMatchObject({ kind: "unreachable" });
  expect(await why(() => list()[0].callOff())).toMatchObject({ kind: "cancelled", what: "moon.png" });
  expect(list()).toEqual([]);
});

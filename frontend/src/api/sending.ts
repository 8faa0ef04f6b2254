import { create } from "zustand";
import { type ErrorDetail, Refusal, UNREACHABLE } from "./refusal";

/** A file on its way to the server, or being read there. */
export interface Sending {
  id: number;
  name: string;
  /** How much of it is there: 0 to 1. */
  sent: number;
  callOff: () => void;
}

export const useSendings = create<{ list: Sending[] }>(() => ({ list: [] }));

let last = 0;

/** Send a file, and get what the server made of it; it can be called off until then. */
export function sendFile<T>(address: string, file: File, fields: Record<string, string> = {}): Promise<T> {
  const form = new FormData();
  form.append("file", file, file.name);
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  const request = new XMLHttpRequest();
  last += 1;
  const id = last;
  const change = (sent: number) => useSendings.setState(({ list }) => ({ list: list.map((one) => (one.id === id ? { ...one, sent } : one)) }));
  const begun: Sending = { id, name: file.name, sent: 0, callOff: () => request.abort() };
  useSendings.setState(({ list }) => ({ list: [...list, begun] }));
  return new Promise<T>((resolve, reject) => {
    request.upload.onprogress = ({ loaded, total }) => change(total ? loaded / total : 0);
    request.upload.onload = () => change(1);
    request.onload = () => {
      const body = parsed(request.responseText);
      if (request.status < 300 && body) resolve(body as T);
      else reject(new Refusal((body as { error?: ErrorDetail } | null)?.error ?? UNREACHABLE));
    };
    request.onerror = () => reject(new Refusal(UNREACHABLE));
    request.onabort = () => reject(new Refusal(calledOff(file.name)));
    request.open("POST", address);
    request.send(form);
  }).finally(() => useSendings.setState(({ list }) => ({ list: list.filter((one) => one.id !== id) })));
}

const calledOff = (name: string): ErrorDetail => ({
  kind: "cancelled",
  what: name,
  why: "it was called off",
  remedy: "Bring it again",
});

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

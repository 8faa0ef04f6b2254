/** What modules of the bench find in a browser, and tests of what is pure do not. */
const kept = new Map<string, string>();
globalThis.sessionStorage ??= {
  getItem: (key: string) => kept.get(key) ?? null,
  setItem: (key: string, value: string) => void kept.set(key, value),
} as Storage;
globalThis.addEventListener ??= () => undefined;

/** Copy a text; whether the browser took it. On plain http there is only the old way. */
export async function copyText(text: string): Promise<boolean> {
  try {
    await navigator.clipboard.writeText(text);
    return true;
  } catch {
    const before = document.activeElement;
    const area = document.createElement("textarea");
    area.value = text;
    area.style.position = "fixed";
    document.body.append(area);
    area.select();
    try {
      return document.execCommand("copy");
    } finally {
      area.remove();
      if (before instanceof HTMLElement) before.focus();
    }
  }
}

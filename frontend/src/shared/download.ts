import { takeRaw } from "../api/client";

/** A name that any file system takes. */
export const fileName = (name: string) => name.replace(/[<>:"/\\|?*]/g, "-");

/** Have the browser save what an address answers; under the server's name unless one is given. */
export async function download(address: string, name?: string) {
  const response = await takeRaw(fetch(address));
  const disposition = response.headers.get("Content-Disposition") ?? "";
  const whole = /filename\*=UTF-8''([^;]+)/.exec(disposition)?.[1];
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await response.blob());
  link.download = name ?? (whole ? decodeURIComponent(whole) : (/filename="([^"]+)"/.exec(disposition)?.[1] ?? "piece"));
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

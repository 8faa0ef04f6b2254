import { takeRaw } from "../api/client";

/** Have the browser save what an address answers, under the server's name. */
export async function download(address: string) {
  const response = await takeRaw(fetch(address));
  const disposition = response.headers.get("Content-Disposition") ?? "";
  const whole = /filename\*=UTF-8''([^;]+)/.exec(disposition)?.[1];
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await response.blob());
  link.download = whole ? decodeURIComponent(whole) : (/filename="([^"]+)"/.exec(disposition)?.[1] ?? "piece");
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

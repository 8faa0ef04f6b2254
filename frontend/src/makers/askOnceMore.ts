import { detailOf } from "../api/client";
import { sentence, showRefused, useNotices } from "../shared/notices";

/** Say that an order was refused; of one that is there already, ask whether it is meant. */
export function askOnceMore(error: unknown, order: () => void) {
  const refused = detailOf(error);
  if (refused.kind !== "repeated") {
    showRefused(refused);
    return;
  }
  useNotices.getState().show({
    tone: "plain",
    title: "Ordered already",
    text: `${sentence(refused.why)}. ${refused.remedy}.`,
    action: { label: "Order it again", run: order },
  });
}

import { beforeEach, expect, test, vi } from "vitest";
import { Refusal } from "../api/client";
import { useNotices } from "../shared/notices";
import { askOnceMore } from "./askOnceMore";

const refused = (kind: string) => new Refusal({ kind, what: "order", why: "the same picture is ordered already", remedy: "Order it again" });

beforeEach(() => useNotices.setState({ list: [] }));

test("what is ordered already is ordered again only by whoever means it", () => {
  const order = vi.fn();
  askOnceMore(refused("repeated"), order);
  const [notice] = useNotices.getState().list;
  expect(notice.text).toContain("ordered already");
  expect(order).not.toHaveBeenCalled();
  notice.action?.run();
  expect(order).toHaveBeenCalledOnce();
});

test("of what is refused for another reason nothing is asked", () => {
  askOnceMore(refused("invalid_value"), vi.fn());
  const [notice] = useNotices.getState().list;
  expect(notice.tone).toBe("error");
  expect(notice.action).toBeUndefined();
});

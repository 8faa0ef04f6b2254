import type { Fitting } from "../../../api/client";
import type { Kinds } from "../kinds";
import { eyelet } from "./eyelet";
import { foot } from "./foot";
import { socket } from "./socket";
import { tabs } from "./tabs";

/** In the order of the menu. */
export const FITTINGS: Kinds<Fitting, object> = { eyelet, foot, tabs, socket };

import type { Fitting } from "../../../api/client";
import type { Kinds } from "../kinds";
import { eyelet } from "./eyelet";
import { foot } from "./foot";
import { handle } from "./handle";
import { keyhole } from "./keyhole";
import { magnet } from "./magnet";
import { socket } from "./socket";
import { tabs } from "./tabs";

/** In the order of the menu. */
export const FITTINGS: Kinds<Fitting, object> = { eyelet, magnet, keyhole, foot, handle, tabs, socket };

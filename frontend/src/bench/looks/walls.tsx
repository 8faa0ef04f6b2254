import { mm } from "../../shared/format";
import type { Look } from "./look";
import { type Asked, Tinted, useTold } from "./tinted";

function Legend(props: Asked) {
  const { data, error } = useTold("walls", props);
  return (
    <div className="legend" role="status">
      {data ? (
        <>
          <span>walls, thinnest {data.said.thinnest_mm === null ? "none" : `${mm(data.said.thinnest_mm, 2)} mm`}</span>
          <span className="mono">0</span>
          <span className="legend-scale backwards" aria-hidden="true" />
          <span className="mono">{mm(data.said.most_mm, 2)} mm and more</span>
        </>
      ) : (
        <span className="quiet">{error ? "the walls could not be measured" : "walls are measured"}</span>
      )}
    </div>
  );
}

export const walls: Look = {
  id: "walls",
  words: "walls",
  title: "How thick the walls are: madder where they are thinnest",
  Surface: (props) => <Tinted what="walls" {...props} />,
  Legend,
};

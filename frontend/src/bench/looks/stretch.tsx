import { mm } from "../../shared/format";
import type { Look } from "./look";
import { type Asked, Tinted, useTold } from "./tinted";

function Legend(props: Asked) {
  const { data, error } = useTold("stretch", props);
  return (
    <div className="legend" role="status">
      {data ? (
        <>
          <span>lines become longer or shorter by</span>
          <span className="mono">0</span>
          <span className="legend-scale" aria-hidden="true" />
          <span className="mono">{mm(Math.max(data.said.most, 0.01) * 100, 1)} %</span>
        </>
      ) : (
        <span className="quiet">{error ? "the stretch could not be measured" : "the stretch is measured"}</span>
      )}
    </div>
  );
}

export const stretch: Look = {
  id: "stretch",
  words: "stretch",
  title: "How art on the body is stretched: madder where it is the most",
  Surface: (props) => <Tinted what="stretch" {...props} />,
  Legend,
  suits: ({ begins }) => begins.kind === "body" && begins.decorations.some((one) => one.enabled && one.kind === "decoration"),
};

import type { Schemas } from "../api/client";
import { mm } from "../shared/format";
import { COLOURS } from "../shared/colours";

const WIDE = 380;
const TALL = 210;
const LEFT = 56;
const LOW = 62; // room for the residuals
const FOOT = 20;

/** Light against thickness on a logarithmic scale, the fitted line, and what it leaves below. */
export function WedgePlot({ result }: { result: Schemas["CalibrationOut"] }) {
  const { thickness_mm, light, fitted, lamp } = result;
  const most = Math.max(...thickness_mm);
  const top = Math.log10(Math.max(lamp, ...light)) + 0.05;
  const bottom = Math.log10(Math.min(...light, ...fitted)) - 0.05;
  const x = (value: number) => LEFT + (value / most) * (WIDE - LEFT - 10);
  const y = (value: number) => 8 + ((top - Math.log10(value)) / (top - bottom)) * (TALL - LOW - FOOT - 8);
  const decades = [1, 0.3, 0.1, 0.03, 0.01, 0.003].filter((v) => Math.log10(v) < top && Math.log10(v) > bottom);
  const left = light.map((value, i) => value / fitted[i] - 1);
  const widest = Math.max(0.002, ...left.map(Math.abs));
  const zero = TALL - FOOT - LOW / 2 + 6;
  const r = (value: number) => zero - (value / widest) * (LOW / 2 - 10);
  return (
    <svg className="wedge-plot" viewBox={`0 0 ${WIDE} ${TALL}`} role="img" aria-label={`Light through ${thickness_mm.length} steps and the fitted line`}>
      {decades.map((value) => (
        <g key={value}>
          <line x1={LEFT} x2={WIDE - 10} y1={y(value)} y2={y(value)} stroke={COLOURS.line} />
          <text className="mono" x={LEFT - 6} y={y(value) + 4} textAnchor="end" fontSize="10" fill={COLOURS.quiet}>
            {mm(value * 100, 1)} %
          </text>
        </g>
      ))}
      <path
        d={`M${x(0)} ${y(lamp)}L${thickness_mm.map((value, i) => `${x(value)} ${y(fitted[i])}`).join("L")}`}
        stroke={COLOURS.madder}
        strokeWidth="1.6"
        fill="none"
      />
      {thickness_mm.map((value, i) => (
        <circle key={value} cx={x(value)} cy={y(light[i])} r="3.6" fill={COLOURS.white} stroke={COLOURS.ink} strokeWidth="1.6" />
      ))}
      <line x1={LEFT} x2={WIDE - 10} y1={zero} y2={zero} stroke={COLOURS.quiet} strokeDasharray="3 3" />
      <text className="mono" x={LEFT - 6} y={zero + 4} textAnchor="end" fontSize="10" fill={COLOURS.quiet}>
        ± {mm(widest * 100, 1)} %
      </text>
      {left.map((value, i) => (
        <line key={thickness_mm[i]} x1={x(thickness_mm[i])} x2={x(thickness_mm[i])} y1={zero} y2={r(value)} stroke={COLOURS.madder} strokeWidth="4" />
      ))}
      <text className="mono" x={LEFT} y={TALL - 4} fontSize="10" fill={COLOURS.quiet}>
        0
      </text>
      <text className="mono" x={WIDE - 10} y={TALL - 4} textAnchor="end" fontSize="10" fill={COLOURS.quiet}>
        {mm(most)} mm
      </text>
    </svg>
  );
}

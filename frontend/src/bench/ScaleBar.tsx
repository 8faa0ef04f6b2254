/** A bar of a round length at the depth of the piece's middle. */
export function ScaleBar({ pxPerMm }: { pxPerMm: number }) {
  if (!(pxPerMm > 0)) return null;
  const most = 130 / pxPerMm;
  const power = 10 ** Math.floor(Math.log10(most));
  const length = ([5, 2, 1].find((factor) => factor * power <= most) ?? 1) * power;
  return (
    <div className="scale-bar mono" style={{ width: length * pxPerMm }}>
      <span>{Number(length.toPrecision(3))} mm</span>
    </div>
  );
}

import type { SlipPicture as Picture } from "../api/client";
import { say } from "../ui/numbers";

/** What a slip gives, computed by the true program: a curve or strip over facing, a patch of the form, or a value. */
export function SlipPicture({ picture }: { picture?: Picture }) {
  if (!picture) return <div className="h-8 border-y border-base-300" />;
  if (picture.draws === "value")
    return (
      <div className="figures flex h-8 items-center justify-center border-y border-base-300">{say(picture.low)}</div>
    );
  if (picture.draws === "patch")
    return (
      <img
        className="block h-9 w-full border-y border-base-300"
        alt="pattern on the form"
        src={`data:image/png;base64,${picture.png}`}
      />
    );
  if (picture.draws === "strip") {
    const colors = picture.colors ?? [];
    const fill = colors.length > 1 ? `linear-gradient(90deg, ${colors.join(", ")})` : colors[0];
    return <div className="h-8 border-y border-base-300" style={{ background: fill }} />;
  }
  return <Curve values={picture.values ?? []} low={Math.min(0, picture.low)} high={Math.max(1, picture.high)} />;
}

function Curve({ values, low, high }: { values: number[]; low: number; high: number }) {
  const points = values.map((v, i) => `${(i / (values.length - 1)) * 100},${30 - ((v - low) / (high - low)) * 28}`);
  return (
    <svg
      className="block h-8 w-full border-y border-base-300"
      viewBox="0 0 100 32"
      preserveAspectRatio="none"
      role="img"
    >
      <title>over facing, rim at the left</title>
      <path d="M25 0V32M50 0V32M75 0V32" stroke="var(--hair)" strokeWidth="0.5" vectorEffect="non-scaling-stroke" />
      <polyline
        points={points.join(" ")}
        fill="none"
        stroke="currentColor"
        strokeWidth="1.4"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}

const FRAME_MM = 36;
const STEPS = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500];

/** A round length near a sixth of the picture's width, and the share of the width that it takes. */
export function scaleBar(distanceCm: number, focalLengthMm: number): { cm: number; share: number } {
  const width = (distanceCm * FRAME_MM) / focalLengthMm;
  const cm = STEPS.reduce((best, step) => (Math.abs(step - width / 6) < Math.abs(best - width / 6) ? step : best));
  return { cm, share: cm / width };
}

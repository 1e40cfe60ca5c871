/** Colours read off pictures: linear Rec.709, over a small square. */
import type { Rgb } from "../api/client";
import { decode, encode } from "../ui/colors";

/** The mean of a square of so many pixels to either side; x and y from 0 to 1. */
export function colorAt(canvas: HTMLCanvasElement, x: number, y: number, reach: number): Rgb | undefined {
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context || !canvas.width) return undefined;
  const left = Math.max(Math.round(x * canvas.width) - reach, 0);
  const top = Math.max(Math.round(y * canvas.height) - reach, 0);
  const side = 2 * reach + 1;
  const { data } = context.getImageData(left, top, side, side);
  const sum = [0, 0, 0];
  let count = 0;
  for (let p = 0; p < data.length; p += 4) {
    if (!data[p + 3]) continue;
    for (let c = 0; c < 3; c++) sum[c] += decode(data[p + c] / 255);
    count += 1;
  }
  return count ? (sum.map((v) => v / count) as Rgb) : undefined;
}

/** Draw a photograph on a canvas, each channel of its light times a gain. */
export function drawGained(canvas: HTMLCanvasElement, image: HTMLImageElement, gain: Rgb): void {
  canvas.width = image.naturalWidth;
  canvas.height = image.naturalHeight;
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context || !canvas.width) return;
  context.drawImage(image, 0, 0);
  if (gain.every((v) => v === 1)) return;
  const whole = context.getImageData(0, 0, canvas.width, canvas.height);
  const curves = gain.map((v) =>
    Uint8ClampedArray.from({ length: 256 }, (_, i) => 255 * encode(Math.min(decode(i / 255) * v, 1)) + 0.5),
  );
  for (let p = 0; p < whole.data.length; p++) if (p % 4 < 3) whole.data[p] = curves[p % 4][whole.data[p]];
  context.putImageData(whole, 0, 0);
}

/** Gains that make a colour neutral at its own luminance. */
export function whiteOf([r, g, b]: Rgb): Rgb {
  const luminance = 0.2126 * r + 0.7152 * g + 0.0722 * b;
  return [r, g, b].map((v) => luminance / Math.max(v, 1e-4)) as Rgb;
}

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

/** How a photograph is laid: turned by degrees to the right, and what of it then is shown, each from 0 to 1. */
export interface Laid {
  turn: number;
  left: number;
  top: number;
  right: number;
  bottom: number;
}

export const WHOLE: Laid = { turn: 0, left: 0, top: 0, right: 1, bottom: 1 };

/** Draw a photograph on a canvas, turned and cropped, each channel of its light times a gain. */
export function drawPhotograph(canvas: HTMLCanvasElement, image: HTMLImageElement, laid: Laid, gain: Rgb): void {
  const { naturalWidth: width, naturalHeight: height } = image;
  const angle = (laid.turn * Math.PI) / 180;
  const [cos, sin] = [Math.abs(Math.cos(angle)), Math.abs(Math.sin(angle))];
  const [across, down] = [width * cos + height * sin, width * sin + height * cos];
  canvas.width = Math.max(Math.round(across * (laid.right - laid.left)), 1);
  canvas.height = Math.max(Math.round(down * (laid.bottom - laid.top)), 1);
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context || !width) return;
  context.translate(across / 2 - across * laid.left, down / 2 - down * laid.top);
  context.rotate(angle);
  context.drawImage(image, -width / 2, -height / 2);
  context.resetTransform();
  if (gain.every((v) => v === 1)) return;
  const whole = context.getImageData(0, 0, canvas.width, canvas.height);
  const curves = gain.map((v) =>
    Uint8ClampedArray.from({ length: 256 }, (_, i) => 255 * encode(Math.min(decode(i / 255) * v, 1)) + 0.5),
  );
  for (let p = 0; p < whole.data.length; p++) if (p % 4 < 3) whole.data[p] = curves[p % 4][whole.data[p]];
  context.putImageData(whole, 0, 0);
}

const LEAST_CROP = 0.02;

/** What is shown when a part of what is shown now is cut out, from one corner to another, each from 0 to 1. */
export function cropped(laid: Laid, [x0, y0]: [number, number], [x1, y1]: [number, number]): Laid {
  const [width, height] = [laid.right - laid.left, laid.bottom - laid.top];
  if (Math.abs(x1 - x0) * width < LEAST_CROP || Math.abs(y1 - y0) * height < LEAST_CROP) return laid;
  return {
    turn: laid.turn,
    left: laid.left + width * Math.min(x0, x1),
    right: laid.left + width * Math.max(x0, x1),
    top: laid.top + height * Math.min(y0, y1),
    bottom: laid.top + height * Math.max(y0, y1),
  };
}

/** Gains that make a colour neutral at its own luminance. */
export function whiteOf([r, g, b]: Rgb): Rgb {
  const luminance = 0.2126 * r + 0.7152 * g + 0.0722 * b;
  return [r, g, b].map((v) => luminance / Math.max(v, 1e-4)) as Rgb;
}

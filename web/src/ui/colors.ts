/** Linear Rec.709 and sRGB hexadecimal. Source of the curve: IEC 61966-2-1. */
import type { Rgb } from "../api/client";

/** Light to what a screen is given, and back. */
export const encode = (v: number) => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055);
export const decode = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);

export function toHex(rgb: number[]): string {
  const byte = (v: number) => Math.round(encode(Math.min(Math.max(v, 0), 1)) * 255);
  return `#${rgb.map((v) => byte(v).toString(16).padStart(2, "0")).join("")}`;
}

/** Undefined when the text is not #rrggbb. */
export function fromHex(hex: string): Rgb | undefined {
  const found = /^#?([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i.exec(hex.trim());
  if (!found) return undefined;
  const channel = (text: string) => Number(decode(Number.parseInt(text, 16) / 255).toFixed(4));
  return [channel(found[1]), channel(found[2]), channel(found[3])];
}

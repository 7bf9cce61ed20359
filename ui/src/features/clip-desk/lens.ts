export const lens = 132; // px across

export const lensZoom = 4;
/** Draws what lies round a point into the lens, with a cross on the point itself. */
export function magnify(
  c: CanvasRenderingContext2D,
  from: CanvasImageSource,
  p: { x: number; y: number },
  scale: number,
) {
  const part = lens / lensZoom / Math.max(0.3, scale);
  c.fillStyle = "#000";
  c.fillRect(0, 0, lens, lens);
  c.drawImage(from, p.x - part / 2, p.y - part / 2, part, part, 0, 0, lens, lens);
  c.strokeStyle = "#fff";
  c.beginPath();
  c.moveTo(lens / 2, lens / 2 - 14);
  c.lineTo(lens / 2, lens / 2 + 14);
  c.moveTo(lens / 2 - 14, lens / 2);
  c.lineTo(lens / 2 + 14, lens / 2);
  c.stroke();
}

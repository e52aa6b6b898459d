import { CanvasTexture, RepeatWrapping, SRGBColorSpace } from "three";

/** A hue and a letter a row. */
const ROWS: [string, number][] = [
  ["A", 205],
  ["B", 42],
  ["C", 330],
  ["D", 120],
  ["E", 18],
  ["F", 255],
  ["G", 170],
  ["H", 350],
];
const CELLS = ROWS.length;

/** A grid of numbered cells, a hue a row: what a texture would look like at every place. */
export function makeNumberedGrid(pixels = 1024): CanvasTexture {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = pixels;
  const pen = canvas.getContext("2d");
  const cell = pixels / CELLS;
  if (pen) {
    pen.textAlign = "center";
    pen.textBaseline = "middle";
    pen.font = `600 ${cell * 0.34}px "Spline Sans Mono Variable", monospace`;
    ROWS.forEach(([letter, hue], row) => {
      for (let column = 0; column < CELLS; column += 1) {
        const light = (row + column) % 2 ? 78 : 66;
        pen.fillStyle = `hsl(${hue} 34% ${light}%)`;
        pen.fillRect(column * cell, row * cell, cell, cell);
        pen.strokeStyle = "rgb(20 35 60 / 0.35)";
        pen.strokeRect(column * cell, row * cell, cell, cell);
        pen.fillStyle = "rgb(20 35 60 / 0.8)";
        pen.fillText(`${letter}${column + 1}`, (column + 0.5) * cell, (row + 0.52) * cell);
      }
    });
  }
  const texture = new CanvasTexture(canvas);
  texture.flipY = false;
  texture.colorSpace = SRGBColorSpace;
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.anisotropy = 8;
  return texture;
}

import { type Font, parse } from "opentype.js";
import { type BufferGeometry, ExtrudeGeometry, type Shape, ShapePath } from "three";

/** Height of a line over that of its letters. */
const LINE_SPACING = 1.2;
/** Steps of each curve of a letter. */
const CURVE_STEPS = 8;

/** Letters as bodies: their outlines are those of a font, so that they are sharp from any distance. */
export class WordShapes {
  private readonly font: Font;

  /** @param bytes  a font as WOFF or OpenType */
  constructor(bytes: ArrayBuffer) {
    this.font = parse(bytes);
  }

  /** True if the font has all letters of a text. */
  has(text: string): boolean {
    return [...text].every((letter) => letter === "\n" || this.font.charToGlyphIndex(letter) > 0);
  }

  /**
   * A text as a body: lines of a height of 1, centred, one metre deep.
   *
   * @param bevel  width of the rounded edges, as a share of the height of a line
   */
  geometry(text: string, bevel: number): BufferGeometry {
    const { font } = this;
    const lines = text.split("\n");
    const size = 1 / font.unitsPerEm;
    const shapes: Shape[] = [];
    lines.forEach((line, row) => {
      const width = font.getAdvanceWidth(line, 1);
      // Letters stand on their line; the middle of capitals is that of the line.
      const y = (lines.length - 1) / 2 - row;
      const path = new ShapePath();
      font.forEachGlyph(line, -width / 2, 0, 1, {}, (glyph, left) => {
        const [px, py] = [
          (one: number) => left + one * size,
          (one: number) => y * LINE_SPACING + one * size - 0.34,
        ];
        for (const command of glyph.path.commands) {
          if (command.type === "M") path.moveTo(px(command.x), py(command.y));
          else if (command.type === "L") path.lineTo(px(command.x), py(command.y));
          else if (command.type === "Q")
            path.quadraticCurveTo(px(command.x1), py(command.y1), px(command.x), py(command.y));
          else if (command.type === "C") {
            path.bezierCurveTo(
              px(command.x1),
              py(command.y1),
              px(command.x2),
              py(command.y2),
              px(command.x),
              py(command.y),
            );
          }
        }
      });
      shapes.push(...path.toShapes());
    });
    const geometry = new ExtrudeGeometry(shapes, {
      depth: 1 - 2 * BEVEL_DEPTH,
      curveSegments: CURVE_STEPS,
      bevelEnabled: bevel > 0,
      bevelThickness: BEVEL_DEPTH,
      bevelSize: bevel,
      bevelOffset: -bevel,
      bevelSegments: 3,
    });
    geometry.translate(0, 0, BEVEL_DEPTH - 0.5);
    return geometry;
  }
}
/** Depth of the rounded edges, as a share of the whole. */
const BEVEL_DEPTH = 0.15;

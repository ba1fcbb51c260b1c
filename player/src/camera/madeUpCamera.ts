import { hashed } from "@bumbrel/core/dsp/maths/hash";

/** A camera's picture, and where the person in it is. */
export interface CameraPicture {
  /** Picture of the camera. */
  readonly picture: CanvasImageSource & TexImageSource;
  /** White where the person is; `undefined` while nobody has been found. */
  readonly mask: (CanvasImageSource & TexImageSource) | undefined;
  readonly width: number;
  readonly height: number;
  /** Left and right are swapped, as in a mirror. */
  readonly isMirrored: boolean;
  /** Milliseconds from a picture to the outline that was found in it. */
  readonly delayMs: number | undefined;
  /** Milliseconds of those that finding it took; none where it is known. */
  readonly tookMs: number | undefined;
  /** Brings picture and outline to a time; tells whether either has changed. */
  update(timeS: number): boolean;
  dispose(): void;
}

type Context = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;
/** The picture is drawn so often a second, as a camera would. */
const PICTURES_A_SECOND = 30;
const FULL = Math.PI * 2;

function canvasOf(width: number, height: number): [HTMLCanvasElement, CanvasRenderingContext2D] {
  const canvas = document.createElement("canvas");
  canvas.width = width;
  canvas.height = height;
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context) throw new Error("This browser cannot draw pictures.");
  return [canvas, context];
}

/**
 * A made-up camera: a quay in the evening, and a made-up person on it who sways, looks round and waves. Where the person is
 * is known, because the same outline is drawn for the picture and for the mask. The same time always gives the same picture.
 */
export class MadeUpCamera implements CameraPicture {
  readonly picture: HTMLCanvasElement;
  readonly mask: HTMLCanvasElement;
  readonly isMirrored = true;
  readonly delayMs = 0;
  readonly tookMs = undefined;
  private readonly context: CanvasRenderingContext2D;
  private readonly maskContext: CanvasRenderingContext2D;
  private shown = -1;

  /** @param width  pixels; @param height  pixels */
  constructor(
    readonly width = 540,
    readonly height = 720,
  ) {
    [this.picture, this.context] = canvasOf(width, height);
    [this.mask, this.maskContext] = canvasOf(width, height);
  }

  update(timeS: number): boolean {
    const number = Math.floor(Math.max(0, timeS) * PICTURES_A_SECOND);
    if (number === this.shown) return false;
    this.shown = number;
    const atS = number / PICTURES_A_SECOND;
    const { context, maskContext, width, height } = this;
    drawQuay(context, width, height, atS);
    const person = personAt(width, height, atS);
    drawPerson(context, person);
    maskContext.globalCompositeOperation = "source-over";
    maskContext.fillStyle = "#000000";
    maskContext.fillRect(0, 0, width, height);
    fillOutline(maskContext, person, "#ffffff");
    return true;
  }

  dispose(): void {}
}

/** Share of the quay that lies in mist: in a darker picture, person finders take the night for somebody. */
const MIST = 0.5;

/** A quay in the evening mist: sky, town, water with lights on it, a rail with lanterns. */
function drawQuay(context: Context, width: number, height: number, timeS: number): void {
  const sky = context.createLinearGradient(0, 0, 0, height * 0.55);
  sky.addColorStop(0, "#06141d");
  sky.addColorStop(0.7, "#123340");
  sky.addColorStop(1, "#2c4f55");
  context.fillStyle = sky;
  context.fillRect(0, 0, width, height);
  for (let i = 0; i < 60; i++) {
    const twinkle = 0.35 + 0.4 * Math.abs(Math.sin(timeS * (0.6 + hashed(3, i)) + i));
    context.fillStyle = `rgba(240, 236, 220, ${twinkle * hashed(4, i)})`;
    context.fillRect(hashed(1, i) * width, hashed(2, i) * height * 0.36, 1.6, 1.6);
  }
  const horizon = height * 0.5;
  for (let i = 0; i < 16; i++) {
    const x = (i / 15) * width * 1.1 - width * 0.05;
    const wide = width * (0.06 + 0.06 * hashed(5, i));
    const tall = height * (0.05 + 0.13 * hashed(6, i));
    context.fillStyle = i % 2 === 0 ? "#0b1c24" : "#0e232b";
    context.fillRect(x - wide / 2, horizon - tall, wide, tall);
    for (let row = 0; row < 5; row++) {
      for (let column = 0; column < 3; column++) {
        if (hashed(7, i * 20 + row * 3 + column) < 0.55) continue;
        context.fillStyle = "rgba(255, 205, 130, 0.75)";
        context.fillRect(x - wide / 3 + (column * wide) / 4, horizon - tall + 6 + row * 14, 4, 5);
      }
    }
  }
  const water = context.createLinearGradient(0, horizon, 0, height);
  water.addColorStop(0, "#1b3a40");
  water.addColorStop(0.4, "#0a2029");
  water.addColorStop(1, "#05131a");
  context.fillStyle = water;
  context.fillRect(0, horizon, width, height - horizon);
  for (let i = 0; i < 46; i++) {
    const y = horizon + (height - horizon) * hashed(8, i) ** 1.6;
    const x = width * hashed(9, i) + Math.sin(timeS * 1.3 + i) * 6;
    const warm = hashed(10, i) > 0.5;
    const strength = 0.1 + 0.22 * Math.abs(Math.sin(timeS * 1.7 + i * 2.1));
    context.fillStyle = warm ? `rgba(255, 190, 105, ${strength})` : `rgba(130, 200, 200, ${strength})`;
    context.fillRect(x, y, 12 + 26 * hashed(11, i), 1.6);
  }
  // Lanterns on a line over the rail, swaying a little.
  for (let i = 0; i < 6; i++) {
    const x = width * (0.06 + i * 0.18) + Math.sin(timeS * 0.9 + i) * 3;
    const y = height * (0.2 + 0.03 * Math.sin(i * 1.9)) + Math.cos(timeS * 0.9 + i) * 2;
    const light = context.createRadialGradient(x, y, 2, x, y, width * 0.1);
    light.addColorStop(0, "rgba(255, 214, 150, 0.95)");
    light.addColorStop(0.2, "rgba(240, 150, 80, 0.5)");
    light.addColorStop(1, "rgba(240, 150, 80, 0)");
    context.fillStyle = light;
    context.fillRect(x - width * 0.1, y - width * 0.1, width * 0.2, width * 0.2);
    context.fillStyle = "#ffdca0";
    context.beginPath();
    context.ellipse(x, y, width * 0.018, width * 0.024, 0, 0, FULL);
    context.fill();
  }
  context.strokeStyle = "#1d2b2e";
  context.lineWidth = height * 0.012;
  const rail = height * 0.7;
  context.beginPath();
  context.moveTo(0, rail);
  context.lineTo(width, rail);
  for (let i = 0; i <= 8; i++) {
    context.moveTo((i / 8) * width, rail);
    context.lineTo((i / 8) * width, height);
  }
  context.stroke();
  context.fillStyle = `rgba(150, 172, 176, ${MIST})`;
  context.fillRect(0, 0, width, height);
}

/** Positions of the parts of the person, in pixels. */
interface Person {
  /** Unit of size: the width of the shoulders. */
  unit: number;
  head: { x: number; y: number; rx: number; ry: number; turn: number };
  /** The middle between the shoulders. */
  chest: { x: number; y: number };
  foot: number;
  /** Shoulder, elbow, hand of each arm. */
  arms: readonly (readonly [x: number, y: number])[][];
  blink: boolean;
}

function personAt(width: number, height: number, timeS: number): Person {
  const unit = Math.min(width * 0.44, height * 0.34);
  const sway = Math.sin(timeS * 0.8) * unit * 0.06;
  const x = width * 0.5 + sway;
  const y = height * 0.56;
  const lean = Math.sin(timeS * 0.8 + 0.6) * 0.06;
  const head = {
    x: x + Math.sin(timeS * 0.5) * unit * 0.05 + sway * 0.4,
    y: y - unit * 0.62 + Math.sin(timeS * 1.6) * unit * 0.01,
    rx: unit * 0.2,
    ry: unit * 0.265,
    turn: lean + Math.sin(timeS * 0.5) * 0.05,
  };
  // The right arm comes up and waves, some seconds each time; the left hangs.
  const up = Math.min(1, Math.max(0, Math.sin(timeS * 0.55) * 2.2 - 0.4));
  const wave = Math.sin(timeS * 6) * 0.28 * up;
  const shoulder = [x + unit * 0.42, y + unit * 0.08] as const;
  const elbow = [shoulder[0] + unit * (0.14 + 0.16 * up), shoulder[1] + unit * (0.46 - 0.28 * up)] as const;
  const angle = Math.PI / 2 - up * (Math.PI * 0.92) + wave;
  const hand = [elbow[0] + Math.cos(angle) * unit * 0.42, elbow[1] + Math.sin(angle) * unit * 0.42] as const;
  const left = [
    [x - unit * 0.42, y + unit * 0.08],
    [x - unit * 0.56, y + unit * 0.52],
    [x - unit * 0.5, y + unit * 0.95],
  ] as const;
  return {
    unit,
    head,
    chest: { x, y },
    foot: height,
    arms: [[...left], [shoulder, elbow, hand]],
    blink: timeS % 3.7 < 0.12,
  };
}

const ARM = 0.17;

/** Outline of the trunk: neck, shoulders, coat down to the lower edge. */
function trunk(context: Context, { unit, head, chest, foot }: Person): void {
  const { x, y } = chest;
  context.beginPath();
  context.moveTo(head.x - unit * 0.1, head.y + head.ry * 0.6);
  context.lineTo(head.x - unit * 0.11, y - unit * 0.2);
  context.bezierCurveTo(
    x - unit * 0.2,
    y - unit * 0.1,
    x - unit * 0.5,
    y - unit * 0.1,
    x - unit * 0.5,
    y + unit * 0.16,
  );
  context.lineTo(x - unit * 0.42, y + unit * 0.9);
  context.lineTo(x - unit * 0.46, foot);
  context.lineTo(x + unit * 0.46, foot);
  context.lineTo(x + unit * 0.42, y + unit * 0.9);
  context.lineTo(x + unit * 0.5, y + unit * 0.16);
  context.bezierCurveTo(
    x + unit * 0.5,
    y - unit * 0.1,
    x + unit * 0.2,
    y - unit * 0.1,
    head.x + unit * 0.11,
    y - unit * 0.2,
  );
  context.lineTo(head.x + unit * 0.1, head.y + head.ry * 0.6);
  context.closePath();
}

function face(context: Context, { head }: Person): void {
  context.beginPath();
  context.ellipse(head.x, head.y, head.rx, head.ry, head.turn, 0, FULL);
}

/** Hair: a cap round the head, a little larger than it. */
function hair(context: Context, { head, unit }: Person): void {
  context.beginPath();
  context.ellipse(
    head.x,
    head.y - head.ry * 0.12,
    head.rx * 1.14,
    head.ry * 1.06,
    head.turn,
    Math.PI * 0.93,
    FULL + Math.PI * 0.07,
  );
  context.quadraticCurveTo(head.x + head.rx * 0.5, head.y - head.ry * 0.35, head.x, head.y - head.ry * 0.5);
  context.quadraticCurveTo(head.x - head.rx * 0.5, head.y - head.ry * 0.35, head.x - head.rx * 1.14, head.y);
  context.closePath();
  context.moveTo(head.x + unit * 0.08, head.y - head.ry * 1.16);
  context.ellipse(head.x, head.y - head.ry * 1.16, unit * 0.085, unit * 0.08, 0, 0, FULL);
}

function arm(context: Context, person: Person, i: number): void {
  const [a, b, c] = person.arms[i];
  context.lineCap = "round";
  context.lineJoin = "round";
  context.lineWidth = person.unit * ARM;
  context.beginPath();
  context.moveTo(a[0], a[1]);
  context.lineTo(b[0], b[1]);
  context.lineTo(c[0], c[1]);
  context.stroke();
}

function hand(context: Context, person: Person, i: number): void {
  const [x, y] = person.arms[i][2];
  context.beginPath();
  context.ellipse(x, y, person.unit * 0.09, person.unit * 0.1, 0, 0, FULL);
  context.fill();
}

/** The whole person in one colour: the outline that is known. */
function fillOutline(context: Context, person: Person, colour: string): void {
  context.fillStyle = colour;
  context.strokeStyle = colour;
  trunk(context, person);
  context.fill();
  for (const i of [0, 1]) {
    arm(context, person, i);
    hand(context, person, i);
  }
  face(context, person);
  context.fill();
  hair(context, person);
  context.fill();
}

function drawPerson(context: Context, person: Person): void {
  const { unit, head, chest } = person;
  const coat = context.createLinearGradient(chest.x - unit * 0.5, 0, chest.x + unit * 0.5, 0);
  coat.addColorStop(0, "#7a2e24");
  coat.addColorStop(0.45, "#b4513a");
  coat.addColorStop(1, "#642219");
  const skin = context.createRadialGradient(
    head.x - head.rx * 0.35,
    head.y - head.ry * 0.2,
    head.rx * 0.2,
    head.x,
    head.y,
    head.ry * 1.2,
  );
  skin.addColorStop(0, "#f0c39c");
  skin.addColorStop(0.7, "#c98f68");
  skin.addColorStop(1, "#8f5d42");
  context.strokeStyle = "#8d3a2b";
  arm(context, person, 0);
  context.fillStyle = "#c98f68";
  hand(context, person, 0);
  context.fillStyle = skin;
  trunk(context, person);
  context.fill();
  // The coat covers the trunk below the neck.
  context.save();
  trunk(context, person);
  context.clip();
  context.fillStyle = coat;
  context.fillRect(chest.x - unit, chest.y - unit * 0.16, unit * 2, person.foot);
  context.strokeStyle = "rgba(40, 10, 6, 0.6)";
  context.lineWidth = unit * 0.012;
  context.beginPath();
  context.moveTo(chest.x, chest.y - unit * 0.1);
  context.lineTo(chest.x + unit * 0.02, person.foot);
  context.stroke();
  context.fillStyle = "#e8c37a";
  for (let i = 0; i < 5; i++) {
    context.beginPath();
    context.arc(chest.x + unit * 0.05, chest.y + unit * (0.1 + i * 0.22), unit * 0.02, 0, FULL);
    context.fill();
  }
  // A scarf.
  context.fillStyle = "#2f7d78";
  context.fillRect(chest.x - unit * 0.22, chest.y - unit * 0.22, unit * 0.44, unit * 0.15);
  context.restore();
  context.strokeStyle = "#a4452f";
  arm(context, person, 1);
  context.fillStyle = "#e0ad86";
  hand(context, person, 1);
  face(context, person);
  context.fillStyle = skin;
  context.fill();
  const feature = (x: number, y: number) => [head.x + x * head.rx, head.y + y * head.ry] as const;
  for (const side of [-1, 1]) {
    const [x, y] = feature(side * 0.4, -0.02);
    context.fillStyle = "#f6efe4";
    context.beginPath();
    context.ellipse(x, y, head.rx * 0.17, person.blink ? 0.6 : head.ry * 0.075, 0, 0, FULL);
    context.fill();
    if (!person.blink) {
      context.fillStyle = "#2b1b14";
      context.beginPath();
      context.arc(x, y, head.rx * 0.075, 0, FULL);
      context.fill();
    }
    context.strokeStyle = "#3b2418";
    context.lineWidth = head.ry * 0.045;
    context.beginPath();
    context.moveTo(x - head.rx * 0.2, y - head.ry * 0.16);
    context.quadraticCurveTo(x, y - head.ry * 0.22, x + head.rx * 0.2, y - head.ry * 0.15);
    context.stroke();
  }
  context.strokeStyle = "rgba(120, 70, 45, 0.8)";
  context.lineWidth = head.ry * 0.03;
  context.beginPath();
  context.moveTo(...feature(0.02, 0.0));
  context.quadraticCurveTo(...feature(0.16, 0.24), ...feature(-0.04, 0.27));
  context.stroke();
  context.strokeStyle = "#8d3b35";
  context.lineWidth = head.ry * 0.05;
  context.beginPath();
  context.moveTo(...feature(-0.3, 0.5));
  context.quadraticCurveTo(...feature(0, 0.64), ...feature(0.3, 0.49));
  context.stroke();
  hair(context, person);
  context.fillStyle = "#3a2218";
  context.fill();
}

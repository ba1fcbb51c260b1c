import { CanvasTexture, Mesh, MeshBasicMaterial, type Object3D, PlaneGeometry, SRGBColorSpace } from "three";

/** Size in the room, metres, and where it hangs before the eyes: far enough to read without strain. */
const WIDTH_M = 1.2;
const AWAY_M = 1.8;
const DOWN_M = 0.55;
const [WIDTH_PX, HEIGHT_PX] = [1024, 192];
const LETTERS_PX = 52;

/** A sign with captions that hangs before the eyes of somebody in a headset. */
export class CaptionSign {
  private readonly context: CanvasRenderingContext2D;
  private readonly texture: CanvasTexture;
  private readonly mesh: Mesh<PlaneGeometry, MeshBasicMaterial>;
  private text = "";

  /** @param eye  moves with the head; the sign hangs on it */
  constructor(eye: Object3D) {
    const canvas = document.createElement("canvas");
    [canvas.width, canvas.height] = [WIDTH_PX, HEIGHT_PX];
    this.context = canvas.getContext("2d")!;
    this.texture = new CanvasTexture(canvas);
    this.texture.colorSpace = SRGBColorSpace;
    this.mesh = new Mesh(
      new PlaneGeometry(WIDTH_M, (WIDTH_M * HEIGHT_PX) / WIDTH_PX),
      new MeshBasicMaterial({ map: this.texture, transparent: true, depthTest: false, toneMapped: false }),
    );
    this.mesh.renderOrder = 1000;
    this.mesh.visible = false;
    this.mesh.position.set(0, -DOWN_M, -AWAY_M);
    eye.add(this.mesh);
  }

  /** Shows up to two lines; nothing for an empty text. */
  show(text: string): void {
    if (text === this.text) return;
    this.text = text;
    this.mesh.visible = text !== "";
    const { context } = this;
    context.clearRect(0, 0, WIDTH_PX, HEIGHT_PX);
    if (text === "") return;
    context.fillStyle = "#050d12e0";
    context.fillRect(0, 0, WIDTH_PX, HEIGHT_PX);
    context.fillStyle = "#f4ecdc";
    context.font = `${LETTERS_PX}px system-ui, sans-serif`;
    context.textAlign = "center";
    context.textBaseline = "middle";
    const lines = text.split("\n");
    lines.forEach((line, i) => {
      const y = HEIGHT_PX / 2 + (i - (lines.length - 1) / 2) * LETTERS_PX * 1.3;
      context.fillText(line, WIDTH_PX / 2, y, WIDTH_PX * 0.96);
    });
    this.texture.needsUpdate = true;
  }

  dispose(): void {
    this.mesh.removeFromParent();
    this.mesh.geometry.dispose();
    this.mesh.material.dispose();
    this.texture.dispose();
  }
}

import { BufferGeometry, LineBasicMaterial, LineSegments, PerspectiveCamera, Scene, Vector3, WebGLRenderer } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { ReliefPart } from '../../engine/messages/protocol';
import { hasProcessor } from '../../formats/page/runtime/hasProcessor';
import { pacing } from '../../formats/page/runtime/pace';
import type { Place } from '../chapters/camera/moveWay';
import { cameraCorners, type CameraDrawing } from './cameraCorners';
import { drawnPart, dress, type Drawn } from './drawnPart';
import type { Form } from './reliefStore';

/** So long after a hand has let go the picture is at rest, ms. */
const REST_MS = 160;
/** How far one press of an arrow key turns, radians, and how much nearer + comes. */
const TURN = 0.06;
const NEARER = 0.88;
/** Steps to the right and up by which it is turned when it is first seen. */
const FIRST_TURN = [-4, 2] as const;
/** The frustum of the camera is so deep, as a share of the way to the middle of the scene. */
const FRUSTUM = 0.18;

/** Nearer to where the plate was taken than this share of the way to the middle the eye is there. */
const NEAR_PLATE = 0.02;

/**
 * A scene in space: surfaces with their pictures, the camera's path and frustum; turned, moved and enlarged by pointer and keys. Drawn when something
 * changes and at no other time. Throws where the browser has no WebGL.
 */
export class ReliefStage {
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new PerspectiveCamera(50, 1, 0.01, 1000);
  private readonly controls: OrbitControls;
  private readonly parts = new Map<'coarse' | 'whole', Drawn>();
  private lines: LineSegments | null = null;
  private shown: 'coarse' | 'whole' = 'coarse';
  private moving = false;
  private asked = 0;
  private rest: ReturnType<typeof setTimeout> | undefined;
  private look: { form: Form; strength: number } = { form: 'surface', strength: 1 };
  private placed = false;
  private width = 1;
  private height = 1;
  private ratio = 1;
  private readonly pace = pacing({ slow: 45, quick: 22, least: 0.4 });

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly on: { drawn(): void; lost(): void },
  ) {
    this.renderer = new WebGLRenderer({ canvas, antialias: hasProcessor(), alpha: false, stencil: false, powerPreference: 'high-performance' });
    this.renderer.setClearColor(0x2a2a29, 1);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.enableDamping = false;
    this.controls.addEventListener('start', () => this.begin());
    this.controls.addEventListener('change', () => this.draw());
    this.controls.addEventListener('end', () => this.end());
    canvas.addEventListener('webglcontextlost', this.lost);
  }

  private readonly lost = (event: Event): void => {
    event.preventDefault();
    this.on.lost();
  };

  /** px of the page, and device pixels for each. */
  resize(width: number, height: number, ratio: number): void {
    [this.width, this.height] = [Math.max(1, width), Math.max(1, height)];
    this.ratio = ratio;
    this.renderer.setPixelRatio(ratio);
    this.renderer.setSize(this.width, this.height, false);
    this.frame();
    this.draw();
  }

  setLook(form: Form, strength: number): void {
    this.look = { form, strength };
    for (const part of this.parts.values()) this.dress(part);
    this.show();
  }

  /** Takes a part in place of the one before, and frees that. A whole one has the pictures of the coarse one. */
  setPart(kind: 'coarse' | 'whole', part: ReliefPart): void {
    this.parts.get(kind)?.free();
    const made = drawnPart(part, kind === 'whole' ? (this.parts.get('coarse')?.textures ?? null) : null);
    this.parts.set(kind, made);
    // its lens, or how far it goes, may be another than before
    this.frame();
    this.dress(made);
    for (const object of made.objects) this.scene.add(object);
    if (!this.placed) {
      this.home();
      // a little aside, so that it is seen to stand in space
      this.turn(...FIRST_TURN);
    }
    this.show();
  }

  /** What was looked at before is another thing now: the coarse one stands for it until the whole one is there. */
  dropWhole(): void {
    this.parts.get('whole')?.free();
    this.parts.delete('whole');
    this.show();
  }

  setCamera(drawing: CameraDrawing): void {
    const corners = cameraCorners(drawing, FRUSTUM * this.middle);
    this.lines?.removeFromParent();
    this.lines?.geometry.dispose();
    const geometry = new BufferGeometry().setFromPoints(corners);
    this.lines ??= new LineSegments(geometry, new LineBasicMaterial({ color: 0xefe9dc, depthTest: false, transparent: true }));
    this.lines.geometry = geometry;
    this.lines.renderOrder = 2;
    this.lines.frustumCulled = false;
    this.scene.add(this.lines);
    this.draw();
  }

  /** Where the camera stood that took the plate: the picture as it was. */
  home(): void {
    const part = this.anyPart;
    if (!part) return;
    this.placed = true;
    this.controls.target.set(0, 0, -part.middle);
    this.camera.position.set(0, 0, 0);
    this.frame();
    this.controls.update();
    this.draw();
  }

  /** A key's step: turned right and up, or nearer. */
  turn(right: number, up: number): void {
    const offset = this.camera.position.clone().sub(this.controls.target);
    const length = offset.length();
    const yaw = Math.atan2(offset.x, offset.z) + right * TURN;
    const pitch = Math.min(1.5, Math.max(-1.5, Math.asin(offset.y / length) + up * TURN));
    offset.set(Math.sin(yaw) * Math.cos(pitch), Math.sin(pitch), Math.cos(yaw) * Math.cos(pitch)).multiplyScalar(length);
    this.camera.position.copy(this.controls.target).add(offset);
    this.step();
  }

  nearer(steps: number): void {
    this.camera.position
      .sub(this.controls.target)
      .multiplyScalar(NEARER ** steps)
      .add(this.controls.target);
    this.step();
  }

  /** Moves what is looked at, shares of the view. */
  pan(right: number, up: number): void {
    const far = this.camera.position.distanceTo(this.controls.target) * Math.tan((this.camera.fov * Math.PI) / 360) * 2;
    const by = new Vector3(right * far * this.camera.aspect, up * far, 0).applyQuaternion(this.camera.quaternion);
    this.camera.position.add(by);
    this.controls.target.add(by);
    this.step();
  }

  private step(): void {
    this.begin();
    this.controls.update();
    this.end();
    this.draw();
  }

  /** A place among the things of the picture, as far as these are drawn. */
  private asDrawn({ x, y, z }: Place, strength = this.look.strength): Place {
    if (!(z > 0) || strength === 1) return { x, y, z };
    const k = (this.middle * (z / this.middle) ** strength) / z;
    return { x: x * k, y: y * k, z: z * k };
  }

  /** Where a place in space is seen, px of the page; null behind the eye. `inScene`: among the things of the picture. */
  seenAt(place: Place, inScene: boolean): { readonly x: number; readonly y: number } | null {
    const { x, y, z } = inScene ? this.asDrawn(place) : place;
    const p = new Vector3(x, -y, -z).applyMatrix4(this.camera.matrixWorldInverse);
    if (p.z > -1e-6) return null;
    p.applyMatrix4(this.camera.projectionMatrix);
    return { x: ((p.x + 1) / 2) * this.width, y: ((1 - p.y) / 2) * this.height };
  }

  /** A place moved by so many px of the page, as far from the eye as it was. */
  movedBy(place: Place, dx: number, dy: number, inScene: boolean): Place {
    const { x, y, z } = inScene ? this.asDrawn(place) : place;
    const p = new Vector3(x, -y, -z).project(this.camera);
    p.x += (2 * dx) / this.width;
    p.y -= (2 * dy) / this.height;
    p.unproject(this.camera);
    const moved = { x: p.x, y: -p.y, z: -p.z };
    // painted on a wall nothing has a distance of its own
    return inScene && this.look.strength > 0.01 ? this.asDrawn(moved, 1 / this.look.strength) : moved;
  }

  /** Frees all that it holds; it is not to be used any more. */
  dispose(): void {
    clearTimeout(this.rest);
    cancelAnimationFrame(this.asked);
    this.canvas.removeEventListener('webglcontextlost', this.lost);
    this.controls.dispose();
    for (const part of this.parts.values()) part.free();
    this.parts.clear();
    this.lines?.geometry.dispose();
    (this.lines?.material as LineBasicMaterial | undefined)?.dispose();
    this.renderer.dispose();
    // a canvas that stays in the page is about to be used again: where effects are run twice to find mistakes
    setTimeout(() => !this.canvas.isConnected && this.renderer.forceContextLoss());
  }

  /** The eye is where the plate was taken. */
  get atPlate(): boolean {
    return this.camera.position.length() < NEAR_PLATE * this.middle;
  }

  private get anyPart(): ReliefPart | null {
    return (this.parts.get('whole') ?? this.parts.get('coarse'))?.part ?? null;
  }

  private get middle(): number {
    return this.anyPart?.middle ?? 5;
  }

  /** The eye sees as much as the lens did that took the plate, and all of the picture where the view has another shape. */
  private frame(): void {
    const part = this.anyPart;
    this.camera.aspect = this.width / this.height;
    if (part) {
      const { width, height, focalPx } = part.lens;
      const tall = Math.max(height, width / this.camera.aspect);
      this.camera.fov = (360 / Math.PI) * Math.atan((1.06 * tall) / 2 / focalPx);
      this.camera.near = part.middle * 2e-3;
      this.camera.far = part.sky * 8;
    }
    this.camera.updateProjectionMatrix();
  }

  private begin(): void {
    clearTimeout(this.rest);
    this.moving = true;
    this.show();
  }

  private end(): void {
    clearTimeout(this.rest);
    this.rest = setTimeout(() => {
      this.moving = false;
      this.show();
    }, REST_MS);
  }

  /** While it moves the coarse one is seen, at rest the whole one. */
  private show(): void {
    const wire = this.look.form === 'wire';
    this.shown = (this.moving || wire || !this.parts.has('whole')) && this.parts.has('coarse') ? 'coarse' : 'whole';
    for (const [kind, { objects }] of this.parts) for (const object of objects) object.visible = kind === this.shown;
    this.draw();
  }

  /** Draws with the next frame of the page. */
  private draw(): void {
    this.asked ||= requestAnimationFrame((now) => {
      this.asked = 0;
      const ratio = this.ratio * this.pace(this.moving, now);
      if (Math.abs(ratio - this.renderer.getPixelRatio()) > 1e-3) this.renderer.setPixelRatio(ratio);
      // at the plate itself its frame would lie over the picture
      if (this.lines) this.lines.visible = !this.atPlate;
      this.renderer.render(this.scene, this.camera);
      this.canvas.dataset.shown = `${this.shown} ${this.parts.get(this.shown)?.part.step ?? 0}`;
      this.on.drawn();
    });
  }

  private dress(part: Drawn): void {
    dress(part, { ...this.look, pxAcross: this.height / (2 * Math.tan((this.camera.fov * Math.PI) / 360)) });
  }
}

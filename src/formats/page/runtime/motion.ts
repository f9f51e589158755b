/** Where the eye is, −1..1 to the right and up. */
export interface Eye {
  x: number;
  y: number;
}

/** So long nobody moves anything before the scene drifts by itself, ms, and one round of that takes, ms. */
const IDLE_MS = 4000;
const ROUND_MS = 14000;
/** Share of the way by which it drifts. */
const DRIFT = 0.7;
/** How quickly the eye follows, ms. */
const FOLLOW_MS = 130;
/** Degrees by which a phone is tilted for all of the way. */
const TILT = 18;
const KEY_STEP = 0.2;

const within = (v: number): number => Math.min(1, Math.max(-1, v));

/** Follows pointer, finger, keys and tilt, and drifts where nothing happens. `draw` is asked for frames only while something moves, and for one when it rests. */
export class Motion {
  private readonly eye: Eye = { x: 0, y: 0 };
  private readonly to: Eye = { x: 0, y: 0 };
  private last = 0;
  private touched = -IDLE_MS;
  private began = 0;
  private asked = 0;
  private seen = true;
  private idle: ReturnType<typeof setTimeout> | undefined;
  private level: { gamma: number; beta: number } | null = null;
  private readonly still = matchMedia('(prefers-reduced-motion: reduce)');

  constructor(
    private readonly box: HTMLElement,
    private readonly draw: (eye: Eye, moving: boolean) => void,
  ) {
    const point = (event: PointerEvent): void => {
      // who wants little motion presses and drags
      if (this.still.matches && event.buttons === 0) return;
      const { left, top, width, height } = box.getBoundingClientRect();
      this.aim((2 * (event.clientX - left)) / width - 1, 1 - (2 * (event.clientY - top)) / height);
    };
    box.addEventListener('pointermove', point);
    box.addEventListener('pointerdown', point);
    box.addEventListener('pointerleave', (event) => event.pointerType === 'mouse' && this.aim(0, 0));
    box.addEventListener('keydown', (event) => {
      const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
      if (!by) return;
      event.preventDefault();
      this.aim(this.to.x + KEY_STEP * by[0]!, this.to.y + KEY_STEP * by[1]!);
    });
    new IntersectionObserver((entries) => {
      this.seen = entries.some((e) => e.isIntersecting);
      this.wake();
    }).observe(box);
    document.addEventListener('visibilitychange', () => this.wake());
    this.still.addEventListener('change', () => this.wake());
    this.wake();
  }

  /** Begins to follow the tilt of a phone. */
  followTilt(): void {
    window.addEventListener('deviceorientation', ({ gamma, beta }) => {
      if (gamma === null || beta === null || this.still.matches) return;
      this.level ??= { gamma, beta };
      // how it is held most of the time is level
      this.level.gamma += 0.01 * (gamma - this.level.gamma);
      this.level.beta += 0.01 * (beta - this.level.beta);
      this.aim((gamma - this.level.gamma) / TILT, (this.level.beta - beta) / TILT);
    });
  }

  private aim(x: number, y: number): void {
    this.to.x = within(x);
    this.to.y = within(y);
    this.touched = performance.now();
    this.wake();
  }

  wake(): void {
    if (this.asked || !this.seen || document.hidden) return;
    this.last = performance.now();
    this.asked = requestAnimationFrame((now) => this.frame(now));
  }

  private frame(now: number): void {
    this.asked = 0;
    const drifts = !this.still.matches && now - this.touched > IDLE_MS;
    if (drifts) {
      this.began ||= now;
      const t = (2 * Math.PI * (now - this.began)) / ROUND_MS;
      this.to.x = DRIFT * Math.sin(t);
      this.to.y = 0.5 * DRIFT * Math.sin(2 * t);
    } else this.began = 0;
    const share = this.still.matches ? 1 : 1 - Math.exp(-Math.min(100, now - this.last) / FOLLOW_MS);
    this.last = now;
    for (const k of ['x', 'y'] as const) {
      this.eye[k] += share * (this.to[k] - this.eye[k]);
      if (Math.abs(this.to[k] - this.eye[k]) < 1e-4) this.eye[k] = this.to[k];
    }
    const moving = drifts || this.eye.x !== this.to.x || this.eye.y !== this.to.y;
    this.draw(this.eye, moving);
    if (moving) this.wakeAgain();
    else if (!this.still.matches) {
      // one timer: it wakes the drift
      clearTimeout(this.idle);
      this.idle = setTimeout(() => this.wake(), IDLE_MS + 50 - (now - this.touched));
    }
  }

  private wakeAgain(): void {
    if (!this.asked && this.seen && !document.hidden) this.asked = requestAnimationFrame((now) => this.frame(now));
  }
}

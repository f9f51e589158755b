import { checks } from '../../core/depth/checks/registry';
import type { Shot } from '../../core/document/schema';
import { needKey } from '../../core/need/need';
import { draftOf, type Provider } from './provider';
import { momentOf } from './shotNow';

/** The estimate that checks compare with: of what is looked at, the frame of a clip that it is. */
export class Comparison {
  /** of which frame the one that is held is, and its key */
  private held: { readonly of: string; readonly key: string } | null = null;

  /** `arrived`: there is another one now */
  constructor(
    private readonly provider: Provider,
    private readonly arrived: () => void,
    private readonly failed: (error: unknown) => void,
  ) {}

  /** The plate is another one. */
  forget(): void {
    this.held = null;
  }

  /** The key of the estimate of what is looked at; null while there is none. */
  of(shot: Shot): string | null {
    return this.held?.of === needKey(draftOf(shot, momentOf(shot))) ? this.held.key : null;
  }

  /** A check that compares gets one. */
  provide(shot: Shot, kind: string | null): void {
    if (!checks.find((c) => c.kind === kind)?.needsEstimate || this.of(shot)) return;
    const at = momentOf(shot);
    const of = needKey(draftOf(shot, at));
    this.provider
      .comparison(shot, at)
      .then((key) => {
        if (!key || (this.held?.of === of && this.held.key === key)) return;
        this.held = { of, key };
        this.arrived();
      })
      .catch((error: unknown) => this.failed(error));
  }
}

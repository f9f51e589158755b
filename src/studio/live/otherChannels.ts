import type { OpenChannels } from '../../live/channels/definition';
import { channelSources } from '../../live/channels/registry';
import type { Heard, LiveFrame } from '../../live/definition';
import { notify } from '../notices/noticeStore';

/** What is heard besides a source's own channels: as the shot says, begun and ended as that changes. */
export class OtherChannels {
  private readonly open = new Map<string, OpenChannels>();
  private closed = false;

  constructor(private readonly heard: (channels: Heard) => void) {}

  /** The kinds that are to be heard from now on; those that are not known here are left alone. */
  set(kinds: readonly string[]): void {
    for (const [kind, channels] of this.open)
      if (!kinds.includes(kind)) {
        channels.close();
        this.open.delete(kind);
      }
    for (const kind of kinds) {
      if (this.open.has(kind) || !channelSources.knows(kind)) continue;
      const mine = channelSources.of(kind).open({
        heard: (channels) => {
          if (!this.closed && this.open.get(kind) === mine) this.heard(channels);
        },
        failed: (why, hint) => {
          if (!this.closed) notify({ kind: 'error', text: why, hint });
        },
      });
      this.open.set(kind, mine);
    }
  }

  frame(frame: LiveFrame, metres: (nearness: number) => number): void {
    for (const channels of this.open.values()) channels.frame?.(frame, metres);
  }

  close(): void {
    this.closed = true;
    this.set([]);
  }
}

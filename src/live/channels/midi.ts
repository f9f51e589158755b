import type { Heard } from '../definition';
import { defineChannels } from './definition';

const NOTE_OFF = 0x80;
const NOTE_ON = 0x90;
const CONTROL = 0xb0;
const BEND = 0xe0;

/** What a MIDI message says, 0..1 (MIDI 1.0, channel voice messages); nothing where it is another sort. */
export function midiHeard(bytes: Uint8Array): Heard {
  const [status = 0, number = 0, value = 0] = bytes;
  switch (status & 0xf0) {
    case NOTE_OFF:
      return { [`note ${number}`]: 0 };
    case NOTE_ON:
      return { [`note ${number}`]: value / 127 };
    case CONTROL:
      return { [`control ${number}`]: value / 127 };
    case BEND:
      return { bend: (number + 128 * value) / 16383 };
    default:
      return {};
  }
}

/** Notes and controls of MIDI devices, where the browser has them. */
export const midiChannels = defineChannels({
  kind: 'midi',
  label: 'MIDI',
  help: 'Notes and controls of MIDI devices, 0 to 1',
  open({ heard, failed }) {
    let access: MIDIAccess | null = null;
    let closed = false;
    const listen = (): void => {
      for (const input of access?.inputs.values() ?? []) input.onmidimessage = closed ? null : ({ data }) => data && heard(midiHeard(data));
    };
    const none = (): void => failed('No MIDI device can be heard here.', 'Use a browser that has MIDI, and allow it beside the address of the page.');
    const { requestMIDIAccess } = navigator as { requestMIDIAccess?: () => Promise<MIDIAccess> };
    if (!requestMIDIAccess) none();
    else
      requestMIDIAccess.call(navigator).then((got) => {
        access = got;
        got.onstatechange = listen;
        listen();
      }, none);
    return {
      close: () => {
        closed = true;
        if (access) access.onstatechange = null;
        listen();
      },
    };
  },
});

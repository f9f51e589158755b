import { defineChannels } from './definition';

/** Levels are told so often, ms; from this loudness on, dB of full scale, they are more than 0. */
const EVERY_MS = 33;
const SILENT_DB = -60;

/** Loudness of samples -1..1, from 0 (silent) to 1 (full scale), even in decibels of their mean square. */
export function levelOf(samples: Float32Array): number {
  let sum = 0;
  for (const v of samples) sum += v * v;
  if (sum === 0) return 0;
  const db = 10 * Math.log10(sum / samples.length);
  return Math.min(1, Math.max(0, 1 - db / SILENT_DB));
}

/** How loud it is. */
export const microphoneChannels = defineChannels({
  kind: 'microphone',
  label: 'Microphone',
  help: 'How loud it is, 0 silent to 1',
  open({ heard, failed }) {
    let stream: MediaStream | null = null;
    let audio: AudioContext | null = null;
    let timer: ReturnType<typeof setInterval> | undefined;
    let closed = false;
    const begin = async (): Promise<void> => {
      const { mediaDevices } = navigator as { mediaDevices?: MediaDevices };
      if (!mediaDevices) throw new Error('none');
      const got = await mediaDevices.getUserMedia({ audio: true });
      stream = got;
      if (closed) {
        stop();
        return;
      }
      audio = new AudioContext();
      const analyser = audio.createAnalyser();
      analyser.fftSize = 1024;
      audio.createMediaStreamSource(got).connect(analyser);
      const samples = new Float32Array(analyser.fftSize);
      timer = setInterval(() => {
        analyser.getFloatTimeDomainData(samples);
        heard({ loudness: levelOf(samples) });
      }, EVERY_MS);
    };
    const stop = (): void => {
      clearInterval(timer);
      for (const track of stream?.getTracks() ?? []) track.stop();
      void audio?.close();
    };
    begin().catch(() => failed('No microphone is heard.', 'Connect one, allow it beside the address of the page, and switch it on again.'));
    return {
      close: () => {
        closed = true;
        stop();
      },
    };
  },
});

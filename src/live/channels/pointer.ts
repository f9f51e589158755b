import { defineChannels } from './definition';

/** Where the pointer is in the window, from the left and from the top, and whether it is down. */
export const pointerChannels = defineChannels({
  kind: 'pointer',
  label: 'Pointer',
  help: 'Where it is in the window, 0 to 1 across and down, and whether it is pressed',
  open({ heard }) {
    const tell = ({ clientX, clientY, buttons }: PointerEvent): void =>
      heard({ 'pointer across': clientX / innerWidth, 'pointer down': clientY / innerHeight, 'pointer pressed': Number(buttons > 0) });
    const names = ['pointermove', 'pointerdown', 'pointerup'] as const;
    for (const name of names) addEventListener(name, tell);
    return {
      close: () => {
        for (const name of names) removeEventListener(name, tell);
      },
    };
  },
});

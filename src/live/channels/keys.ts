import { defineChannels } from './definition';
import { writesText } from './writesText';

/** Letters and digits: 1 while a key is held. Those that are typed into a field are not heard. */
export const keyChannels = defineChannels({
  kind: 'keys',
  label: 'Keys',
  help: 'Letters and digits: 1 while a key is held',
  open({ heard }) {
    const held = new Set<string>();
    const down = ({ key, target, ctrlKey, metaKey }: KeyboardEvent): void => {
      if (writesText(target) || ctrlKey || metaKey || !/^[a-z0-9]$/i.test(key)) return;
      const name = `key ${key.toLowerCase()}`;
      held.add(name);
      heard({ [name]: 1 });
    };
    const up = ({ key }: KeyboardEvent): void => {
      const name = `key ${key.toLowerCase()}`;
      if (held.delete(name)) heard({ [name]: 0 });
    };
    // keys that are let go elsewhere are never heard of again
    const left = (): void => {
      if (held.size > 0) heard(Object.fromEntries([...held].map((name) => [name, 0])));
      held.clear();
    };
    addEventListener('keydown', down);
    addEventListener('keyup', up);
    addEventListener('blur', left);
    return {
      close: () => {
        removeEventListener('keydown', down);
        removeEventListener('keyup', up);
        removeEventListener('blur', left);
      },
    };
  },
});

import { useState, type ChangeEvent, type KeyboardEvent } from 'react';

/** What a field needs whose text is taken with Enter, or when it is left, where it has become another; Escape leaves it as it was. */
export function useTyped(value: string, take: (text: string) => void) {
  const [text, setText] = useState<string | null>(null);
  return {
    value: text ?? value,
    onFocus: () => setText(value),
    onChange: (e: ChangeEvent<HTMLInputElement | HTMLTextAreaElement>) => setText(e.target.value),
    onBlur: () => {
      const next = text?.trim();
      if (next && next !== value) take(next);
      setText(null);
    },
    onKeyDown: (e: KeyboardEvent) => {
      if (e.key === 'Enter') (e.target as HTMLElement).blur();
      else if (e.key === 'Escape') setText(null);
    },
  };
}

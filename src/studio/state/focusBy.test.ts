import { expect, test } from '@jest/globals';
import { focusedByKey, watchFocus } from './focusBy';

/** A page on which things happen in an order. */
function page(): { readonly document: Document; does(type: string, init?: object): void } {
  const target = new EventTarget();
  return {
    document: target as Document,
    does: (type, init = {}) => void target.dispatchEvent(Object.defineProperties(new Event(type), Object.getOwnPropertyDescriptors(init))),
  };
}

test('what was reached by Tab or an arrow has its focus by a key; what was clicked has not, nor what gets it back when a list closes', () => {
  const { document, does } = page();
  const end = watchFocus(document);
  const [a, b] = [new EventTarget(), new EventTarget()];
  does('pointerdown');
  does('focusin', { target: a });
  expect(focusedByKey(a)).toBe(false);
  does('keydown', { key: 'Tab' });
  does('focusin', { target: b });
  expect(focusedByKey(b)).toBe(true);
  expect(focusedByKey(a)).toBe(false);
  does('pointerdown');
  does('keydown', { key: 'Escape' });
  does('focusin', { target: a });
  expect(focusedByKey(a)).toBe(false);
  does('keydown', { key: 'ArrowRight' });
  does('focusin', { target: a });
  expect(focusedByKey(a)).toBe(true);
  end();
  does('focusin', { target: b });
  expect(focusedByKey(b)).toBe(false);
  expect(focusedByKey(null)).toBe(false);
});

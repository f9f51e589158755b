import isEqual from 'fast-deep-equal';
import { memo, useLayoutEffect, useRef, useState, type FunctionComponent } from 'react';

type Handler = (...args: never[]) => unknown;

/**
 * A component that renders again only when what it shows has changed: handlers may be written in place, whichever was given last is
 * called, and the rest is compared by value. Not for components with children, nor for functions whose answers are shown.
 */
export function steady<P extends object>(Inner: FunctionComponent<P>): FunctionComponent<P> {
  const Still = memo(Inner, isEqual);
  function Steady(props: P) {
    const latest = useRef(props);
    useLayoutEffect(() => {
      latest.current = props;
    });
    const [handlers] = useState(() => new Map<string, Handler>());
    const handlerOf = (name: string): Handler => {
      const known = handlers.get(name) ?? ((...args) => (latest.current as Record<string, Handler>)[name]!(...args));
      handlers.set(name, known);
      return known;
    };
    const held = Object.entries(props).map(([name, value]) => [name, typeof value === 'function' ? handlerOf(name) : (value as unknown)]);
    return <Still {...(Object.fromEntries(held) as P)} />;
  }
  return Steady;
}

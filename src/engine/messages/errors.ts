import * as Comlink from 'comlink';
import { OmbrageError } from '../../core/error';

/** How an error crosses between page and worker; any other value crosses as it is. */
type Crossing = { readonly ours: { readonly code: string; readonly message: string; readonly hint: string } } | { readonly other: unknown };

interface Thrown {
  readonly value: unknown;
}

/** From now on errors of ours keep their code and hint when they cross: to be called once on either side. */
export function errorsCross(): void {
  const plain = Comlink.transferHandlers.get('throw') as Comlink.TransferHandler<Thrown, unknown>;
  const handler: Comlink.TransferHandler<Thrown, Crossing> = {
    canHandle: (value): value is Thrown => plain.canHandle(value),
    serialize: (thrown) => {
      const { value } = thrown;
      if (value instanceof OmbrageError) return [{ ours: { code: value.code, message: value.message, hint: value.hint } }, []];
      const [other, transfers] = plain.serialize(thrown);
      return [{ other }, transfers];
    },
    deserialize: (crossed) => {
      if ('ours' in crossed) throw new OmbrageError(crossed.ours.code, crossed.ours.message, crossed.ours.hint);
      return plain.deserialize(crossed.other);
    },
  };
  Comlink.transferHandlers.set('throw', handler);
}

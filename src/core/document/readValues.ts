import { ENDLESS } from '../values/endless';
import { formatNumber, looseSchema, type Params } from '../values/params';

/** Something with values of its own, as a document or a look holds it. */
interface Holder {
  values: Record<string, number | boolean | string>;
}

/** Reads the values of a thing by its definition, in place: words for endless numbers become numbers; what cannot be read is left out, and told. */
export function readValues({ params }: { readonly params: Params }, holder: Holder, where: string, remarks: string[]): void {
  for (const [name, param] of Object.entries(params)) {
    // JSON has no infinity
    if (holder.values[name] === ENDLESS && param.type === 'number') holder.values[name] = Infinity;
    const value = holder.values[name];
    if (value === undefined || looseSchema(param).safeParse(value).success) continue;
    const fallback = param.type === 'number' ? formatNumber(param, param.default) : String(param.default);
    remarks.push(`${where}: ${param.label} was ${JSON.stringify(value)}, now ${fallback}.`);
    delete holder.values[name];
  }
}

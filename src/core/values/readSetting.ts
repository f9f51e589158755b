import { OmbrageError } from '../error';
import { readNumber, type Params } from './params';

/** Sets one value from text, as the command line does. Throws with the name and what is allowed. */
export function readSetting(params: Params, name: string, text: string): number | boolean | string {
  const param = params[name];
  if (!param) throw new OmbrageError('unknown-setting', `There is no setting "${name}".`, `Settings: ${Object.keys(params).join(', ')}.`);
  const bad = (allowed: string): OmbrageError => new OmbrageError('bad-setting', `"${text}" is no value for ${name}.`, allowed);
  if (param.type === 'number') {
    const read = readNumber(param, text);
    if (read.value === null) throw bad(`${read.reason} It goes from ${param.lowest} to ${param.highest}${param.unit ? ` (${param.unit})` : ''}.`);
    return read.value;
  }
  if (param.type === 'toggle') {
    if (!/^(on|off|true|false|yes|no|1|0)$/i.test(text)) throw bad('Give on or off.');
    return /^(on|true|yes|1)$/i.test(text);
  }
  if (param.type === 'choice') {
    if (!param.options.some((o) => o.value === text)) throw bad(`Give one of ${param.options.map((o) => o.value).join(', ')}.`);
    return text;
  }
  if (!/^#[0-9a-f]{6}$/i.test(text)) throw bad('Give a colour such as #c9d2d8.');
  return text;
}

import swc from '@swc/jest';

/**
 * Names that hot loops look up on the global object. Jest runs every module in a context of its own, where such a look-up is some
 * hundred times slower than a local name; so each module gets them as names of its own, on its first line so that lines keep their numbers.
 */
const GLOBALS = ['Math', 'Number', 'Float32Array', 'Float64Array', 'Uint8Array', 'Int32Array', 'Uint32Array', 'Uint8ClampedArray', 'Array', 'Object'];
const LOCAL = `const ${GLOBALS.map((name) => `${name} = globalThis.${name}`).join(', ')}, Infinity = 1 / 0, NaN = 0 / 0, undefined = void 0;`;

export default {
  createTransformer(options) {
    const inner = swc.createTransformer(options);
    const withLocals = (result) => ({ ...result, code: `${LOCAL} ${result.code}` });
    return {
      ...inner,
      process: (source, path, o) => withLocals(inner.process(source, path, o)),
      processAsync: async (source, path, o) => withLocals(await inner.processAsync(source, path, o)),
      getCacheKey: (source, path, o) => `${inner.getCacheKey(source, path, o)}locals`,
    };
  },
};

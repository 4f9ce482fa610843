import swc from '@swc/jest';

/** What loops of sound and curves name in each of their rounds, and no test puts anything else in the place of. */
const NAMES = [
  ...['Math', 'Infinity', 'NaN', 'Number', 'Object', 'Array', 'Map', 'Set'],
  ...['Float64Array', 'Float32Array', 'Int32Array', 'Uint32Array', 'Uint8Array', 'DataView'],
];
const WHICH = new RegExp(`\\b(?:${NAMES.join('|')})\\b`, 'g');

/**
 * Compiles as swc does. In Jest’s sandbox a global is looked up through the sandbox at every use, which takes loops of sound four times as
 * long as they take elsewhere: so each module holds those it names as its own.
 */
export default {
  createTransformer(options) {
    const compiler = swc.createTransformer(options);
    const holding = (result) => {
      const named = [...new Set(result.code.match(WHICH))];
      // On the first line: no other moves.
      return named.length ? { ...result, code: `const { ${named.join(', ')} } = globalThis; ${result.code}` } : result;
    };
    return {
      canInstrument: false,
      getCacheKey: (...of) => `${compiler.getCacheKey(...of)}-${NAMES.length}`,
      process: (...of) => holding(compiler.process(...of)),
      processAsync: async (...of) => holding(await compiler.processAsync(...of)),
    };
  },
};

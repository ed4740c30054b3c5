/** So that `npx taxeon` asks the demo's bot in a clone, too. */
export { default } from './examples/tool-library/taxeon.config.js';

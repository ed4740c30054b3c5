/** The kinds of arguments, one by one: `import { integer } from 'taxeon/arg'`, or all as `arg` of `taxeon`. */
export * from './commands/kinds/index.js';
export { attachment } from './reading/kinds/attachment.js';
export { list } from './reading/kinds/list.js';

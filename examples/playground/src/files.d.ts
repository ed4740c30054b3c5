declare module '*.yaml' {
  const data: unknown;
  export default data;
}
declare module '*.css';

declare module 'js-yaml/lib/loader.js' {
  const loader: Pick<typeof import('js-yaml'), 'load'>;
  export default loader;
}

declare module 'js-yaml/lib/schema/core.js' {
  const schema: typeof import('js-yaml').CORE_SCHEMA;
  export default schema;
}

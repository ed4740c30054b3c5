declare module '*.yaml' {
  const data: unknown;
  export default data;
}
declare module '*.css';

declare module 'freemail' {
  const list: { isFree(email: string): boolean; isDisposable(email: string): boolean };
  export default list;
}

declare module 'mjml-preset-core' {
  /** The components of MJML, for mjml-core. */
  const preset: { components: unknown[]; dependencies: Record<string, unknown> };
  export default preset;
}

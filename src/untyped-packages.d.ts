declare module 'freemail' {
  const list: { isFree(email: string): boolean; isDisposable(email: string): boolean };
  export default list;
}

declare module 'mjml-preset-core' {
  /** The components of MJML, for mjml-core. */
  const preset: { components: unknown[]; dependencies: Record<string, unknown> };
  export default preset;
}

declare module 'jstat' {
  const jstat: { jStat: { normal: { cdf(x: number, mean: number, deviation: number): number } } };
  export default jstat;
}

declare module 'email-reply-parser' {
  export default class EmailReplyParser {
    read(text: string): { getVisibleText(): string };
  }
}

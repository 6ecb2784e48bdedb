declare module 'email-providers' {
  /** Domains, in small letters. */
  const domains: string[];
  export default domains;
}

declare module 'numfmt' {
  /** A number by a pattern of ECMA-376 Part 1 §18.8.31. The package names a file for its types that it does not have. */
  export function format(pattern: string, value: number): string;
}

declare module 'mjml-preset-core' {
  /** The components of MJML, for mjml-core. */
  const preset: { components: unknown[]; dependencies: Record<string, unknown> };
  export default preset;
}

declare module 'jstat' {
  const jstat: {
    jStat: {
      normal: { cdf(x: number, mean: number, deviation: number): number };
      /** The regularized incomplete beta function. */
      ibeta(x: number, a: number, b: number): number;
    };
  };
  export default jstat;
}

declare module 'email-reply-parser' {
  export default class EmailReplyParser {
    read(text: string): { getVisibleText(): string };
  }
}

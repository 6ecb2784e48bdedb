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

declare module 'smpp' {
  import type { EventEmitter } from 'node:events';
  import type { Duplex } from 'node:stream';

  /** A unit of the protocol, its fields by the names of SMPP 3.4. */
  export interface Pdu {
    command: string;
    command_status: number;
    sequence_number: number;
    [field: string]: unknown;
    isResponse(): boolean;
    response(fields?: Record<string, unknown>): Pdu;
  }
  /** Speaks over a connection that has been made. */
  export interface Session extends EventEmitter {
    /** False where the connection is closed already; `answered` is not called then, nor when it closes before. */
    send(pdu: Pdu, answered?: (answer: Pdu) => void): boolean;
    close(): void;
    destroy(): void;
  }
  const smpp: {
    Session: new (options: { socket: Duplex }) => Session;
    PDU: new (command: string, fields?: Record<string, unknown>) => Pdu;
    /** The 7-bit default alphabet of 3GPP TS 23.038, one septet to a byte. */
    encodings: { ASCII: { encode(text: string): Buffer; decode(bytes: Uint8Array): string } };
  };
  export default smpp;
}

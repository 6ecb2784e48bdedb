import type { z } from 'zod';
import type { Use, Write } from '../app/use.ts';
import type { Right } from '../core/people/rights.ts';

export type Method = 'GET' | 'POST' | 'PUT' | 'DELETE';

/** The names in a path: "/leads/:lead/merge" has "lead". */
export type NameIn<P extends string> = P extends `${string}:${infer Rest}`
  ? Rest extends `${infer Name}/${infer More}`
    ? Name | NameIn<`/${More}`>
    : Rest
  : never;

export type Named<P extends string> = Record<NameIn<P>, string>;

/** A file as it was sent, its name in the query. */
export interface SentFile {
  name: string;
  bytes: Buffer;
  /** The tab of a workbook that is meant. */
  tab: string | null;
}

/** What reaches a route: who asks, the names in its path, its query, and what was sent by its schema. */
export interface Asked {
  names: Record<string, string>;
  query: URLSearchParams;
  input?: unknown;
  file?: SentFile;
  request: Request;
  /** The network address it is asked from. */
  address: string;
  /** Of the session it is asked in. */
  cookie: string | undefined;
}

/**
 * One door of the API. `answer` gives what is sent as JSON, or a Response of its own; it is handed what was sent only once the schema has taken it.
 */
export interface Route<M extends Method = Method, P extends string = string, I = unknown, O = unknown> {
  method: M;
  path: P;
  /** What whoever knocks must have the right to. The use case asks once more: it is called from elsewhere too. */
  right: Right;
  /** What is sent as JSON. */
  schema?: z.ZodType<unknown, I>;
  /** Bytes a file that is sent may have. */
  mostBytes?: number;
  answer(use: Use, asked: Asked): Promise<O>;
}

type Sent<S extends z.ZodType> = z.input<S>;

/** How the doors of a part are written down. Unless one says otherwise, whoever looks has the right `look`, whoever changes something `change`. */
export const doors = (look: Right, change: Right) => {
  /** Looks. */
  const reads = <const P extends string, O>(
    path: P,
    act: (use: Use, names: Named<P>, query: URLSearchParams, asked: Asked) => Promise<O>,
    right: Right = look,
  ): Route<'GET', P, undefined, O> => ({
    ...{ method: 'GET', path, right },
    answer: (use, asked) => act(use, asked.names as Named<P>, asked.query, asked),
  });

  /** Is sent something, and sees itself to what it writes: it looks only, or asks another service first. */
  const takes = <const M extends Method, const P extends string, S extends z.ZodType, O>(
    method: M,
    path: P,
    schema: S,
    act: (use: Use, input: z.output<S>, names: Named<P>, asked: Asked) => Promise<O>,
    right: Right = change,
  ): Route<M, P, Sent<S>, O> => ({
    ...{ method, path, right },
    schema: schema as unknown as z.ZodType<unknown, Sent<S>>,
    answer: (use, asked) => act(use, asked.input as z.output<S>, asked.names as Named<P>, asked),
  });

  /** The same with nothing sent. */
  const does = <const M extends Method, const P extends string, O>(
    method: M,
    path: P,
    act: (use: Use, names: Named<P>, query: URLSearchParams, asked: Asked) => Promise<O>,
    right: Right = change,
  ): Route<M, P, undefined, O> => ({
    ...{ method, path, right },
    answer: (use, asked) => act(use, asked.names as Named<P>, asked.query, asked),
  });

  /** Is sent something and changes something, in one transaction. */
  const writes = <const M extends Method, const P extends string, S extends z.ZodType, O>(
    method: M,
    path: P,
    schema: S,
    act: (tx: Write, input: z.output<S>, names: Named<P>) => Promise<O>,
    right: Right = change,
  ): Route<M, P, Sent<S>, O> =>
    takes(method, path, schema, (use, input, names) => use.write((tx) => act(tx, input, names)), right);

  /** The same with nothing sent. */
  const writesAlone = <const M extends Method, const P extends string, O>(
    method: M,
    path: P,
    act: (tx: Write, names: Named<P>, query: URLSearchParams) => Promise<O>,
    right: Right = change,
  ): Route<M, P, undefined, O> =>
    does(method, path, (use, names, query) => use.write((tx) => act(tx, names, query)), right);

  /** Is sent a file. */
  const takesFile = <const P extends string, O>(
    path: P,
    mostBytes: number,
    act: (use: Use, file: SentFile, names: Named<P>, query: URLSearchParams) => Promise<O>,
    right: Right = change,
  ): Route<'POST', P, undefined, O> => ({
    ...{ method: 'POST', path, right, mostBytes },
    answer: (use, { file, names, query }) => act(use, file!, names as Named<P>, query),
  });

  return { reads, takes, does, writes, writesAlone, takesFile };
};

import { beginWith } from './begins-words.ts';

/** Something of the business that has a name. */
export interface Thing {
  id: string;
  name: string;
  /** What tells it apart from another of the same name: where it is, what is in it. */
  about?: string | undefined;
}

/** The things that fit what was typed, by their names and by what is said about them. */
export const foundThings = <One extends Thing>(things: readonly One[], typed: string): One[] =>
  beginWith(things, typed, ({ name, about = '' }) => ({ name, by: `${name} ${about}` }));

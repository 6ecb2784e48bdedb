import { createContext } from 'react';
import type { FieldReference } from '../core/template/field-reference.ts';
import type { Surroundings } from '../core/template/filters/filter.ts';

/** A field that can be put into a message. */
export interface PickableField extends FieldReference {
  label: string;
  /** The sample lead's value. */
  value: string;
}

/** The fields at hand, and the editor that a click on one goes to: the one last written in. */
export interface FieldPicker {
  fields: PickableField[];
  labels: ReadonlyMap<string, string>;
  /** Whose numbers and dates they are, and when. */
  surroundings: Surroundings;
  /** Lists that came with the sample, for steps that go through one. */
  lists?: { key: string; label: string; columns: string[] }[];
  /** Asks for one more answer in a form of our own, and gives the field it will be; where the sheet listens to one. */
  ask?: { form: string; make: (label: string) => Promise<FieldReference> };
  setTarget: (insert: (text: string) => void) => void;
}

/** Where nobody says whose they are. */
export const UNSAID: Surroundings = { locale: 'en-GB', country: 'GB', timeZone: 'UTC', now: null };

export const FieldPickerContext = createContext<FieldPicker>({
  fields: [],
  labels: new Map(),
  surroundings: UNSAID,
  setTarget: () => {},
});

import { createContext } from 'react';
import type { FieldReference } from '../core/template/field-reference.ts';

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
  /** Lists that came with the sample, for steps that go through one. */
  lists?: { key: string; label: string; columns: string[] }[];
  setTarget: (insert: (text: string) => void) => void;
}

export const FieldPickerContext = createContext<FieldPicker>({ fields: [], labels: new Map(), setTarget: () => {} });

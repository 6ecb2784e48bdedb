import { storableText } from '../../core/fields/field.ts';
import { writeReference } from '../../core/template/field-reference.ts';
import type { StepPerformer } from '../step-performer.ts';
import type { AskedElsewhere } from './definition.ts';

/** Longest value kept of an answer, in UTF-16 code units. */
const LONGEST = 5000;

export const askService: StepPerformer = {
  async call(outside, what, { businessId }) {
    const { connectionId, lookUp, given, prefix } = what as AskedElsewhere;
    const asked = await outside.elsewhere.lookUp({ businessId, connectionId, lookUp, given });
    if (asked.kind !== 'answered') return asked;
    const results = Object.entries(asked.found).map(([key, value]) => ({
      reference: writeReference({ group: 'found', key: `${prefix}.${key}` }),
      value: storableText(value).slice(0, LONGEST),
    }));
    const none = results.every(({ value }) => value === '');
    return {
      kind: 'accepted',
      code: none ? 'none' : 'found',
      detail: none ? 'Nothing was found there' : 'Found',
      results,
    };
  },
};

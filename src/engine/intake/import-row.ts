import { readEmail } from '../../core/message/email-address.ts';
import type { FileColumn } from '../../core/sheets/match-columns.ts';
import type { LeadCard } from '../../core/source/lead-card.ts';
import { draftLead } from '../../core/source/lead-draft.ts';
import type { RowEntry } from '../../sources/row-entry.ts';
import type { TableRow } from '../../tables/table.ts';

/** A row as a source that brings rows reads it. */
export const entryOf = (row: TableRow, columns: readonly FileColumn[]): RowEntry => ({
  id: `row:${row.n}`,
  number: row.n,
  cells: columns.map((column) => ({ key: column.id, label: column.name, value: row.cells[column.index] ?? '' })),
});

export interface Judged {
  n: number;
  verdict: 'good' | 'known' | 'duplicate' | 'refused';
  problem: string | null;
  identities: [kind: string, value: string][];
}

/** Whether there is somebody in a row who can be recognised or reached, and what is wrong with it, in words. */
export function judgeRow(row: TableRow, columns: readonly FileColumn[], card: LeadCard, country: string): Judged {
  const fields = columns.map(({ id, name, index }) => ({ key: id, label: name, value: row.cells[index] ?? '' }));
  const { person, identities } = draftLead(fields, card, country);
  const bad = person.email !== '' && !readEmail(person.email).ok;
  const badPhone = person.phone !== '' && !identities.some(({ kind }) => kind === 'phone');
  const wrong = [
    bad ? `"${person.email.slice(0, 60)}" is not an email address` : '',
    badPhone ? `"${person.phone.slice(0, 40)}" is not a phone number` : '',
  ]
    .filter(Boolean)
    .join(', ');
  const nobody = person.email === '' && person.phone === '' ? 'There is no email and no phone' : wrong;
  return {
    n: row.n,
    verdict: identities.length === 0 ? 'refused' : 'good',
    problem:
      [
        identities.length === 0 ? `${nobody}: nobody can be recognised or reached.` : wrong ? `${wrong}.` : '',
        row.trouble ? `${row.trouble}.` : '',
      ]
        .filter(Boolean)
        .join(' ') || null,
    identities: identities.map(({ kind, value }) => [kind, value]),
  };
}

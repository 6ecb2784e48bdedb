import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import { REMOVED_KINDS } from '../../src/app/account/removed.ts';
import { BulkAction } from '../../src/core/people/bulk-action.ts';
import { AUDIT_ACTIONS, auditChanges, auditWords } from '../../src/core/words/audit-words.ts';

describe('who changed what, in words', () => {
  it('has a sentence for every note the application writes, and none for what it does not', () => {
    const root = join(import.meta.dirname, '../../src');
    const written = new Set(BulkAction.options.map(({ shape }) => `bulk.${shape.does.value}`));
    for (const kind of REMOVED_KINDS) written.add(`${kind}.put_back`);
    for (const file of readdirSync(root, { recursive: true, encoding: 'utf8' }).filter((one) =>
      /^app\/.*\.ts$/.test(one),
    )) {
      const text = readFileSync(join(root, file), 'utf8');
      for (const [, found] of text.matchAll(
        /(?:\bnote\(|changeOwn\(tx, )([^\n]*(?:\n[^\n]*){0,3}?'[a-z_]+\.[a-z_.]+')/g,
      ))
        for (const [, action] of found!.matchAll(/'([a-z_]+\.[a-z_.]+)'/g)) written.add(action!);
      // Those of a sign-in, which is in no business yet.
      for (const [, action] of text.matchAll(
        /'(sign_in|sign_out|sign_in\.failed|password\.reset|invitation\.accept)'/g,
      ))
        written.add(action!);
    }
    expect(written.size).to.be.greaterThan(140);
    expect([...AUDIT_ACTIONS].sort()).to.deep.equal([...written].sort());
  });

  it('names what it is about, or does without', () => {
    expect(auditWords('workflow.put_live', { version: 3 }, 'Trial lesson')).to.equal(
      'put live version 3 of the workflow “Trial lesson”',
    );
    expect(auditWords('workflow.put_live', {}, null)).to.equal('put live version … of the workflow');
    expect(auditWords('list.remove', { name: 'Old news' }, null)).to.equal('removed the list “Old news”');
    expect(auditWords('lead.edit', {}, null)).to.equal('changed the name or the addresses of');
    expect(auditWords('something.of_later', {}, null)).to.equal('something, of later');
  });

  it('shows what was before and after, only where it differs', () => {
    const detail = {
      before: { role: 'desk', whoseLeads: 'own', teams: ['a'], timeZone: null },
      after: { role: 'viewer', whoseLeads: 'own', teams: [], timeZone: 'UTC', only: true },
    };
    expect(auditChanges(detail)).to.deep.equal([
      { what: 'role', before: 'desk', after: 'viewer' },
      { what: 'teams', before: '["a"]', after: '[]' },
      { what: 'time zone', before: 'nothing', after: 'UTC' },
      { what: 'only', before: 'nothing', after: 'yes' },
    ]);
    expect(auditChanges({ name: 'X' })).to.deep.equal([]);
    expect(auditChanges({ before: 'desk', after: null })).to.deep.equal([]);
  });
});

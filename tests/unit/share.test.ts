import { expect } from 'chai';
import fc from 'fast-check';
import { readShare, type SharedThing } from '../../src/core/share/share-file.ts';
import { idsIn, swapIds } from '../../src/core/share/swap-ids.ts';
import { writeShare } from '../../src/core/share/write-share.ts';
import { stepKinds } from '../../src/steps/registry.ts';
import { freshStep, momentOf, sheetOf } from '../stage/sheets.ts';

const LIST = '01999999-0000-7000-8000-000000000001';
const TAB = '01999999-0000-7000-8000-000000000002';
const COLUMN = 'c0123456789ab';
const GONE = '01999999-0000-7000-8000-00000000000e';
const HERE: SharedThing[] = [
  { id: LIST, kind: 'list', name: 'Newsletter', optIn: 'single', confirmSubject: '', confirmMessage: '', fields: [] },
  { id: TAB, kind: 'tab', name: 'People', sheet: 'People', columns: [{ id: COLUMN, name: 'Email' }] },
];
const words = fc.array(
  fc.oneof(
    fc.string({ unit: 'grapheme', maxLength: 20 }),
    fc.constantFrom(
      ...[
        '{{ lead.first_name }}',
        `{{ member.${LIST}.level }}`,
        `{{ answers["${COLUMN}"] }}`,
        'cafebabe12345',
        'cdeadbeef1234',
      ],
      ...[`https://example.com/lesson/${GONE}?a=1`, `https://example.com/?l={{member.${LIST}.level}}`],
    ),
  ),
  { maxLength: 6 },
);

describe('a workflow as a file', () => {
  it('loses nothing on its way: taken where the same things are, it is as it was, links and words that look like ids too', async () => {
    await fc.assert(
      fc.asyncProperty(words, words, async (message, cell) => {
        const steps = [
          freshStep('text', 't', { message: message.join(' '), needsConsent: false }),
          freshStep('list', 'l', { action: 'add', list: LIST }),
          freshStep('sheet-row', 'r', { tab: TAB, cells: { [COLUMN]: cell.join(' ') }, key: COLUMN }),
        ];
        const sheet = sheetOf([momentOf('a', { lanes: { lead: [steps[0]!], record: steps.slice(1), team: [] } })]);
        const file = await writeShare([{ name: 'Spring', folder: 'Term', sheet }], stepKinds, async (ids) =>
          HERE.filter((one) => ids.includes(one.id)),
        );
        const read = readShare(JSON.parse(JSON.stringify(file)));
        expect(read.ok).to.equal(true);
        if (!read.ok) return;
        // What stands for each here, by what it is called.
        const back = new Map<string, string>();
        for (const thing of read.file.things) {
          back.set(thing.id, thing.kind === 'list' ? LIST : TAB);
          if (thing.kind === 'tab') back.set(thing.columns[0]!.id, COLUMN);
        }
        const [taken] = read.file.workflows;
        expect(swapIds(taken!.sheet, (id) => back.get(id) ?? null)).to.deep.equal(sheet);
        expect(taken).to.include({ name: 'Spring', folder: 'Term' });
      }),
    );
  });

  it('says of what was gone already that it is, and leaves it out of lists', async () => {
    const sheet = sheetOf(
      [
        momentOf('a', {
          lanes: { lead: [], record: [freshStep('list', 'l', { action: 'add', list: GONE })], team: [] },
        }),
      ],
      {},
      [GONE],
    );
    const file = await writeShare([{ name: 'Spring', folder: '', sheet }], stepKinds, async () => []);
    expect(file.things.map(({ kind }) => kind)).to.deep.equal(['gone']);
    expect(JSON.stringify(file)).not.to.include(GONE);
    const taken = swapIds(file.workflows[0]!.sheet, () => null);
    expect(taken.sources).to.deep.equal([]);
    expect(taken.moments[0]!.lanes.record[0]!.settings.list).to.equal('');
  });

  it('is in keys too, each once, in the order they stand', () => {
    expect(idsIn({ a: [LIST, `${TAB}/${COLUMN}`], [LIST.toUpperCase()]: 1 })).to.deep.equal([LIST, TAB, COLUMN]);
    expect(swapIds({ [COLUMN]: { [LIST]: LIST } }, (id) => (id === LIST ? 'x' : null))).to.deep.equal({
      [COLUMN]: { x: 'x' },
    });
  });
});

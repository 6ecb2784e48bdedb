import { expect } from 'chai';
import fc from 'fast-check';
import { z } from 'zod';
import { readAs } from '../../src/core/read-as.ts';
import { adForm } from '../../src/sources/ad-form/definition.ts';

/** Has a length nothing can be compared with: Zod's check of a text's length throws at it. */
const UNMEASURED = { length: { toString: '' } };

describe('what somebody outside has made is read', () => {
  it('as what it is where it fits, and refused in words where it does not, whatever it is', () => {
    const schema = z.object({
      name: z.string().trim().min(1).max(20),
      tags: z.array(z.string().max(5)).max(3).default([]),
    });
    expect(readAs(schema, { name: ' Ada ' })).to.deep.equal({ success: true, data: { name: 'Ada', tags: [] } });
    for (const value of [
      UNMEASURED,
      { name: UNMEASURED },
      { name: 'Ada', tags: UNMEASURED },
      { name: 'Ada', tags: [UNMEASURED] },
    ]) {
      const read = readAs(schema, value);
      expect(read.success).to.equal(false);
      expect(read.error!.issues[0]!.message).to.match(/\S/);
    }
    fc.assert(
      fc.property(
        fc.object({ key: fc.constantFrom('name', 'tags', 'length', 'toString', 'valueOf'), maxDepth: 4 }),
        (value) => {
          readAs(schema, value);
        },
      ),
    );
  });

  it('so that an entry of such things is refused in words', async () => {
    const entry = { type: 'form.entry', entry: { id: UNMEASURED, form: { id: 'f', name: 'F' }, answers: UNMEASURED } };
    const raw = { headers: {}, contentType: 'application/json', body: Buffer.from(JSON.stringify(entry)) };
    const settings = adForm.settings.parse({ connectionId: 'c', formId: 'f', formName: 'F' });
    const read = await adForm.read(raw, settings);
    expect(read.ok === false && read.problem).to.match(/\S/);
  });
});

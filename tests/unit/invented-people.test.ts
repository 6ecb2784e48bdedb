import { expect } from 'chai';
import { inventPeople } from '../../src/demo/people.ts';
import { seededRandom } from '../../src/demo/seeded-random.ts';

describe('invented people', () => {
  it('are as many as a busy Saturday evening asks for, each with a name and an address of their own', () => {
    for (const seed of [1, 7, 4680]) {
      const people = inventPeople(seededRandom(seed), 700);
      const all = [
        ...Array.from({ length: 590 }, () => people.next()),
        ...Array.from({ length: 900 }, () => people.byEmailOnly()),
      ];
      expect(new Set(all.map(({ first, last }) => `${first} ${last}`)).size).to.equal(1490);
      expect(all.every(({ email }) => /^[a-z.]+@example\.(com|org|net)$/.test(email))).to.equal(true);
    }
  });
});

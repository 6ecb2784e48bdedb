import { expect } from 'chai';
import { withOlder } from '../../src/client/pages.ts';

const of = (one: string) => one;

describe('a list of which older pages have been asked for', () => {
  it('keeps them when its newest page comes anew, and has none twice and none left out', () => {
    expect(withOlder(['9', '8', '7'], ['7', '6', '5', '4', '3'], of)).to.deep.equal([
      '9',
      '8',
      '7',
      '6',
      '5',
      '4',
      '3',
    ]);
  });
  it('drops what is gone from the newest page', () => {
    expect(withOlder(['7', '5', '4'], ['7', '6', '5', '4', '3'], of)).to.deep.equal(['7', '5', '4', '3']);
  });
  it('is empty when nothing is left', () => {
    expect(withOlder([], ['7', '6'], of)).to.deep.equal([]);
  });
});

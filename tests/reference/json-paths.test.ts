import { expect } from 'chai';
import fc from 'fast-check';
import { query } from 'jsonpath-rfc9535';
import { pathProblem, valuesAt } from '../../src/core/described/paths.ts';

/** The document of RFC 9535 §1.5, figure 1 (from memory). */
const BOOKS = {
  store: {
    book: [
      { category: 'reference', author: 'Nigel Rees', title: 'Sayings of the Century', price: 8.95 },
      { category: 'fiction', author: 'Evelyn Waugh', title: 'Sword of Honour', price: 12.99 },
      { category: 'fiction', author: 'Herman Melville', title: 'Moby Dick', isbn: '0-553-21311-3', price: 8.99 },
      {
        category: 'fiction',
        author: 'J. R. R. Tolkien',
        title: 'The Lord of the Rings',
        isbn: '0-395-19395-8',
        price: 22.99,
      },
    ],
    bicycle: { color: 'red', price: 399 },
  },
};

describe('paths into answers, against RFC 9535', () => {
  it('find what its table 2 says they find (from memory)', () => {
    const titles = (path: string) => valuesAt(path, BOOKS).map((one) => (one as { title: string }).title);
    expect(valuesAt('$.store.book[*].author', BOOKS)).to.deep.equal([
      'Nigel Rees',
      'Evelyn Waugh',
      'Herman Melville',
      'J. R. R. Tolkien',
    ]);
    expect(valuesAt('$..author', BOOKS)).to.have.length(4);
    expect(valuesAt('$.store.*', BOOKS)).to.have.length(2);
    expect(valuesAt('$.store..price', BOOKS)).to.have.members([399, 8.95, 12.99, 8.99, 22.99]);
    expect(valuesAt('$..book[2].author', BOOKS)).to.deep.equal(['Herman Melville']);
    expect(valuesAt('$..book[2].publisher', BOOKS)).to.deep.equal([]);
    expect(titles('$..book[-1]')).to.deep.equal(['The Lord of the Rings']);
    expect(titles('$..book[0,1]')).to.deep.equal(['Sayings of the Century', 'Sword of Honour']);
    expect(titles('$..book[:2]')).to.deep.equal(['Sayings of the Century', 'Sword of Honour']);
    expect(titles('$.store.book[?@.isbn]')).to.deep.equal(['Moby Dick', 'The Lord of the Rings']);
    expect(titles('$.store.book[?@.price<10]')).to.deep.equal(['Sayings of the Century', 'Moby Dick']);
  });

  it('find what an independent reader finds (package "jsonpath-rfc9535"), in any document', () => {
    const document = fc.object({
      key: fc.constantFrom('a', 'b', 'c', 'x y', ''),
      maxDepth: 4,
      values: [fc.integer(), fc.string(), fc.boolean(), fc.constant(null)],
    });
    const paths = [
      '$',
      '$.a',
      '$.a.b',
      '$.*',
      '$..a',
      "$['x y']",
      "$['']",
      '$.a[0]',
      '$.a[-1]',
      '$.a[1:3]',
      '$[*].b',
      '$[?@.a]',
      '$.a[?@ > 1]',
      '$[?@.b == true]',
      '$..[0]',
      "$.a['b','c']",
    ];
    for (const path of paths) expect(pathProblem(path), path).to.equal(null);
    fc.assert(
      fc.property(document, fc.constantFrom(...paths), (value, path) => {
        expect(valuesAt(path, value), path).to.have.deep.members(query(value as Parameters<typeof query>[0], path));
      }),
      { numRuns: 2000 },
    );
  });

  it('are refused where it says they are not well-formed (§2.3, §2.4)', () => {
    for (const path of [
      '',
      ' $',
      '$.',
      '$.a.',
      '$[',
      '$[01]',
      '$[?@.a == ]',
      '$.a b',
      "$['a]",
      '$[1:2:3:4]',
      '$[?count(@.a)]',
      '.a',
      'a',
    ])
      if (path !== '') expect(pathProblem(path), path).to.be.a('string');
  });
});

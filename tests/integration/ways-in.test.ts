import { generateKeyPairSync } from 'node:crypto';
import { expect } from 'chai';
import { Secret, TOTP } from 'otpauth';
import type { PersonView } from '../../src/app/people/people.ts';
import type { Coordinator } from '../stage/flow.ts';
import { otherBusiness } from '../stage/other-business.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { independentService, lyingService, type SignOnService, type Subject } from '../stage/sign-on-service.ts';
import { SIGN_IN, type Stage, signedIn } from '../stage/stage.ts';

const PASSWORD = 'violet tuba harvest';

describe('ways in', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Coordinator;
  before(async () => {
    ({ stage } = await sharedStage());
    oona = await signedIn(stage);
  });

  const open = async (path: string, { form, cookie = '' }: { form?: Record<string, string>; cookie?: string } = {}) => {
    const answer = await fetch(stage.url + path, {
      ...(form ? { method: 'POST', body: new URLSearchParams(form) } : {}),
      headers: { origin: stage.url, cookie },
      redirect: 'manual',
    });
    const set = Object.fromEntries(answer.headers.getSetCookie().map((one) => /^([^=]+)=([^;]*)/.exec(one)!.slice(1)));
    return {
      ...{ status: answer.status, to: answer.headers.get('location') ?? '', text: await answer.text() },
      session: set.pinebell_session ? `pinebell_session=${set.pinebell_session}` : '',
      errand: set.pinebell_errand ? `pinebell_errand=${set.pinebell_errand}` : '',
    };
  };
  const join = async (name: string, role = 'coordinator') => {
    const email = `${name.toLowerCase()}@wrenfield.example`;
    const { link } = (await oona.call<{ link: string }>('POST', '/api/invitations', { email: '', role })).body;
    expect((await open(link.replace(stage.url, ''), { form: { name, email, password: PASSWORD } })).status).to.equal(
      303,
    );
    return { ...(await signedIn(stage, { email, password: PASSWORD })), email };
  };
  const as = (cookie: string) => (path: string) =>
    fetch(stage.url + path, { headers: { cookie } }).then(({ status }) => status);
  const sign = (email: string, password = PASSWORD) => open('/sign-in', { form: { email, password } });
  const codeOf = (secret: string, offset = 0) =>
    new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: Date.now() + offset * 30_000 });
  const problem = (answer: { body: unknown }) => (answer.body as { type?: string }).type?.replace('urn:pine-bell:', '');

  describe('with codes of a phone', () => {
    it('need both from then on, each code once, and let in by a recovery code whoever has lost the phone', async () => {
      const one = await join('Coda');
      const elsewhere = await signedIn(stage, { email: one.email, password: PASSWORD });
      const { token, secret, picture } = (
        await one.call<{ token: string; secret: string; picture: string }>('POST', '/api/second')
      ).body;
      expect(picture).to.match(/^<svg/);
      expect(problem(await one.call('PUT', '/api/second', { token, code: '000000' }))).to.equal('code');
      expect((await sign(one.email)).session, 'not asked for before it is proved').not.to.equal('');
      const { codes } = (await one.call<{ codes: string[] }>('PUT', '/api/second', { token, code: codeOf(secret) }))
        .body;
      expect(codes.length).to.equal(10);
      expect((await elsewhere.call('GET', '/api/leads')).status, 'who only knew the password is out').to.equal(401);
      expect((await one.call('GET', '/api/leads')).status).to.equal(200);

      const half = await sign(one.email);
      expect([half.status, half.to, half.session]).to.deep.equal([303, '/sign-in/code', '']);
      expect(await as(half.errand)('/api/leads')).to.equal(401);
      const code = (typed: string, cookie = half.errand) => open('/sign-in/code', { form: { code: typed }, cookie });
      expect((await code(codeOf(secret))).status, 'the code it was set up by was used').to.equal(401);
      const next = codeOf(secret, 1);
      const both = await Promise.all([code(next), code(next)]);
      expect(both.map(({ status }) => status).sort()).to.deep.equal([303, 401]);
      const again = await sign(one.email);
      expect((await code(next, again.errand)).status, 'replayed').to.equal(401);
      const spare = codes[3]!;
      const spent = await code(spare.toLowerCase().replace('-', ' '), again.errand);
      expect([spent.status, await as(spent.session)('/api/leads')]).to.deep.equal([303, 200]);
      expect((await code(spare, (await sign(one.email)).errand)).status).to.equal(401);
      // Neither the secret nor a code stands anywhere to be read.
      const { rows } = await stage.db.query(
        `select p::text || coalesce((select string_agg(c::text, '') from recovery_code c where c.person_id = p.id), '') as all from person p where email = $1`,
        [one.email],
      );
      for (const read of [secret, codes[5]!, codes[5]!.replace('-', '')]) expect(rows[0].all).not.to.include(read);
    });

    it('are not found by trying, and whoever belongs here still gets in from elsewhere', async () => {
      const one = await join('Tried');
      const { token, secret } = (await one.call<{ token: string; secret: string }>('POST', '/api/second')).body;
      await one.call('PUT', '/api/second', { token, code: codeOf(secret) });
      const { errand } = await sign(one.email);
      const tries = await Promise.all(
        Array.from({ length: 20 }, (_, i) =>
          open('/sign-in/code', { form: { code: String(100000 + i) }, cookie: errand }),
        ),
      );
      expect(tries.filter(({ status }) => status === 401).length).to.equal(8);
      expect(tries.filter(({ status }) => status === 429).length).to.equal(12);
      // They who are in already are not put out by it.
      expect((await one.call('GET', '/api/leads')).status).to.equal(200);
      for (const forged of ['pinebell_errand=', 'pinebell_errand=made-up', '']) {
        const answer = await open('/sign-in/code', { form: { code: codeOf(secret, 1) }, cookie: forged });
        expect(answer.session, forged).to.equal('');
      }
      await stage.db.query(`update errand set expires_at = now() - interval '1 second'`);
      expect((await open('/sign-in/code', { form: { code: codeOf(secret, 1) }, cookie: errand })).text).to.include(
        'took too long',
      );
    });

    it('may be asked of everybody: whoever has none adds them, and can do nothing before', async () => {
      const one = await join('Later');
      expect(
        problem(await oona.call('PUT', '/api/sign-in-rules', { demands: true })),
        'not before the owner has one',
      ).to.equal('first-you');
      const businessId = (
        await stage.db.query(
          `select business_id as id from membership m join person p on p.id = m.person_id where p.email = $1`,
          [one.email],
        )
      ).rows[0].id;
      await stage.db.query('update business set demands_second = true where id = $1', [businessId]);
      try {
        expect([
          (await one.call('GET', '/api/leads')).status,
          problem(await one.call('GET', '/api/leads')),
        ]).to.deep.equal([403, 'second']);
        const page = await open('/leads', { cookie: one.cookie });
        expect([page.status, page.to]).to.deep.equal([302, '/settings/you?more']);
        expect((await open('/settings/you', { cookie: one.cookie })).text).to.include(
          'Add a passkey or codes of your phone to go on',
        );
        const { token, secret } = (await one.call<{ token: string; secret: string }>('POST', '/api/second')).body;
        expect((await one.call('PUT', '/api/second', { token, code: codeOf(secret) })).status).to.equal(200);
        expect((await one.call('GET', '/api/leads')).status).to.equal(200);
        expect(problem(await one.call('DELETE', '/api/second'))).to.equal('demanded');
      } finally {
        await stage.db.query('update business set demands_second = false where id = $1', [businessId]);
      }
      expect((await one.call('DELETE', '/api/second')).status).to.equal(200);
      expect((await sign(one.email)).session).not.to.equal('');
    });
  });

  it('by a key let in nobody who proves nothing, whatever they send', async () => {
    const key = (method: string, body: string, cookie = '') =>
      fetch(`${stage.url}/api/sign-in/key`, {
        method,
        headers: { origin: stage.url, 'content-type': 'application/json', cookie },
        body,
      });
    // Opened by numbers there are no keys.
    expect((await key('POST', '{}')).status).to.equal(409);
    await stage.db.query(
      `insert into passkey (id, person_id, credential, public_key, transports, name, created_at) select gen_random_uuid(), id, 'known', '', '{}', 'Phone', now() from person where email = $1 on conflict do nothing`,
      [SIGN_IN.email],
    );
    const begin = async () => {
      const token = 'x'.repeat(43);
      await stage.db.query('delete from errand');
      await stage.db.query(
        `insert into errand (id, kind, what, expires_at) values (rtrim(translate(encode(sha256($1::bytea), 'base64'), '+/', '-_'), '='), 'key-use', '{"challenge": "c", "site": "localhost", "origin": "http://localhost"}', now() + interval '1 hour')`,
        [token],
      );
      return `pinebell_errand=${token}`;
    };
    for (const body of [
      '',
      'nonsense',
      '[]',
      '{"id": "unknown"}',
      '{"id": "known"}',
      '{"id": "known", "rawId": "known", "type": "public-key", "response": {"clientDataJSON": "e30", "authenticatorData": "e30", "signature": "e30"}, "clientExtensionResults": {}}',
      '{"id": 1}',
      'null',
    ]) {
      const answer = await key('PUT', body, await begin());
      expect(
        [answer.status < 500 && answer.status >= 400, answer.headers.get('set-cookie')],
        `${body}: ${await answer.text()}`,
      ).to.deep.equal([true, null]);
    }
    await stage.db.query(`delete from passkey where credential = 'known'`);
  });

  it('ask for the password once more for what is dangerous, at a screen that was left open', async () => {
    const one = await join('Screen', 'owner');
    const { id } = (await oona.call<PersonView[]>('GET', '/api/people')).body.find(({ name }) => name === 'Screen')!;
    await stage.db.query(`update session set proved_at = now() - interval '11 minutes' where person_id = $1`, [id]);
    for (const [method, path, body] of [
      ['POST', '/api/second', undefined],
      ['PUT', `/api/people/${id}`, { role: 'owner', whoseLeads: 'all', teams: [] }],
      ['POST', `/api/people/${id}/leave`, { to: null }],
      ['POST', '/api/invitations', { email: '', role: 'owner' }],
      ['DELETE', '/api/sign-on', undefined],
      ['POST', '/api/passkeys/begin', undefined],
    ] as const) {
      const answer = await one.call(method, path, body);
      expect([answer.status, problem(answer)], path).to.deep.equal([403, 'prove']);
    }
    expect((await one.call('POST', '/api/proof', { password: 'wrong' })).status).to.equal(422);
    expect((await one.call('POST', '/api/proof', { password: PASSWORD })).status).to.equal(200);
    expect((await one.call('POST', '/api/second')).status).to.equal(200);
  });

  describe('by a sign-in of the business’s own', () => {
    const subject: { now: Subject } = { now: { sub: 'a' } };
    let service: SignOnService & { follow(address: string): Promise<URL> };
    before(async () => {
      service = await independentService(`${stage.url}/sign-in/back`, subject);
    });
    afterEach(() => stage.db.query('delete from sign_on'));
    after(() => service.close());
    const setUp = (more: Record<string, unknown> = {}) =>
      oona.call<{ detail?: string }>('PUT', '/api/sign-on', {
        ...{ issuer: service.issuer, clientId: 'pine-bell', secret: 'a secret of theirs' },
        ...{ domains: ['wrenfield.example'], newcomers: null, only: false, ...more },
      });
    /** Goes there: what the browser keeps, and where it is sent. */
    const leave = async (email: string) => {
      const page = await open('/sign-in/with?to=/leads', { form: { email } });
      const address = /http-equiv="refresh" content="0;url=([^"]+)"/
        .exec(page.text)?.[1]
        ?.replaceAll('&amp;', '&')
        .replaceAll('&#38;', '&');
      return { ...page, address };
    };
    const come = async (email: string) => {
      const { errand, address, text } = await leave(email);
      expect(address, text).to.match(/^http/);
      const back = await service.follow(address!);
      return { ...(await open(back.pathname + back.search, { cookie: errand })), back, errand };
    };

    it('lets in whoever is a member, by a provider nobody of us has made', async () => {
      expect((await setUp()).status).to.equal(200);
      subject.now = { sub: 'tomas-1', email: 'Tomas@wrenfield.example', email_verified: true, name: 'Tomas' };
      const came = await come('tomas@wrenfield.example');
      expect([came.status, came.to], came.text).to.deep.equal([303, '/leads']);
      const me = await (await fetch(`${stage.url}/settings/you`, { headers: { cookie: came.session } })).text();
      expect(me).to.include('Tomas Arden');
      // What came back is good once, and in this browser.
      for (const cookie of [came.errand, '', 'pinebell_errand=another'])
        expect((await open(came.back.pathname + came.back.search, { cookie })).status).to.equal(401);
      // He is known by the name the service has for him, whatever his address is called there.
      subject.now = { sub: 'tomas-1', email: 'tom.new@wrenfield.example', email_verified: true };
      expect((await come('tomas@wrenfield.example')).status).to.equal(303);
    });

    it('makes whoever is new what the business says, and nobody of another domain, unverified, or without an address', async () => {
      await setUp();
      subject.now = { sub: 'n1', email: 'newcomer@wrenfield.example', email_verified: true, name: 'New Comer' };
      expect((await come(subject.now.email!)).text).to.include('not invited yet');
      expect((await setUp({ newcomers: 'viewer' })).status).to.equal(200);
      expect((await come('newcomer@wrenfield.example')).status).to.equal(303);
      expect(
        (await oona.call<PersonView[]>('GET', '/api/people')).body.find(
          ({ email }) => email === 'newcomer@wrenfield.example',
        )!.role,
      ).to.equal('viewer');
      for (const [wrong, words] of [
        [{ email: 'newcomer@elsewhere.example', email_verified: true }, /Nobody comes in here/],
        [{ email: 'late@wrenfield.example', email_verified: false }, /has not made sure/],
        [{}, /does not tell us your email/],
      ] as const) {
        subject.now = { sub: 'n2', ...wrong };
        const came = await come('newcomer@wrenfield.example');
        expect([came.session, words.test(came.text)], came.text.slice(-600)).to.deep.equal(['', true]);
      }
      expect((await setUp({ newcomers: 'owner' })).status).to.equal(422);
    });

    it('speaks for this business alone: no other is opened, and nothing of the person’s own is changed', async () => {
      const { person, business } = await otherBusiness(stage);
      await setUp({ domains: ['other.example'], newcomers: 'viewer' });
      subject.now = { sub: 'eve-there', email: 'eve@other.example', email_verified: true };
      const came = await come('eve@other.example');
      expect(came.status, came.text).to.equal(303);
      const { rows } = await stage.db.query(
        'select how, within from session where person_id = $1 order by created_at desc limit 1',
        [person],
      );
      expect([rows[0].how, rows[0].within !== null && rows[0].within !== business]).to.deep.equal(['sign-on', true]);
      const call = (method: string, path: string, body?: unknown) =>
        fetch(`${stage.url}/api${path}`, {
          method,
          headers: { cookie: came.session, origin: stage.url, 'content-type': 'application/json' },
          ...(body ? { body: JSON.stringify(body) } : {}),
        }).then(async (answer) => [answer.status, ((await answer.json()) as { type: string }).type]);
      for (const [method, path, body] of [
        ['POST', '/second', undefined],
        ['POST', '/passkeys/begin', undefined],
        ['PUT', '/password', { current: 'other-password', password: 'oboe pickle sunrise' }],
        ['DELETE', '/sessions', undefined],
      ] as const)
        expect(await call(method, path, body), path).to.deep.equal([403, 'urn:pine-bell:sign-on']);
      // Even where its session's business is changed by whatever fault, it opens nothing there.
      await stage.db.query('update session set business_id = $2 where person_id = $1 and within is not null', [
        person,
        business,
      ]);
      const { rows: named } = await stage.db.query<{ key: string }>('select key from business where id = $1', [
        business,
      ]);
      expect(await as(came.session)(`/at/${named[0]!.key}/api/leads`)).to.equal(404);
      await stage.db.query('delete from session where person_id = $1 and within is not null', [person]);
      await stage.db.query('delete from outer_identity where person_id = $1', [person]);
      await stage.db.query('delete from membership where person_id = $1 and business_id <> $2', [person, business]);
    });

    it('can be the only way in, but for owners', async () => {
      const one = await join('Pwonly');
      await setUp({ only: true });
      expect((await one.call('GET', '/api/leads')).status, 'signed in by password').to.equal(401);
      expect((await sign(one.email)).text).to.include('its own sign-in only');
      expect((await sign(SIGN_IN.email, SIGN_IN.password)).status).to.equal(303);
      subject.now = { sub: 'pw', email: one.email, email_verified: true };
      expect((await come(one.email)).status).to.equal(303);
    });

    it('is asked before it is kept, and a secret goes to no other service', async () => {
      expect((await setUp({ issuer: `${service.issuer}/elsewhere` })).body.detail).to.match(
        /does not say how to sign in/,
      );
      expect((await setUp({ issuer: 'http://192.0.2.1/' })).body.detail).to.match(/begins with https/);
      await setUp();
      const liar = await lyingService();
      try {
        expect((await setUp({ issuer: liar.issuer, secret: '' })).status).to.equal(200);
        expect((await stage.db.query('select secret from sign_on')).rows[0].secret).to.equal(null);
      } finally {
        await liar.close();
      }
      expect((await leave('tomas@wrenfield.example')).status, 'it is away').to.equal(502);
    });
  });

  it('believe nothing a sign-on service says that is not for us, of now, and signed by it', async () => {
    const liar = await lyingService();
    const other = generateKeyPairSync('rsa', { modulusLength: 2048 }).privateKey;
    try {
      await oona.call('PUT', '/api/sign-on', {
        ...{ issuer: liar.issuer, clientId: 'pine-bell', secret: 'x' },
        ...{ domains: ['wrenfield.example'], newcomers: null, only: false },
      });
      const come = async (more: (params: URLSearchParams) => void = () => {}) => {
        const page = await open('/sign-in/with', { form: { email: 'tomas@wrenfield.example' } });
        const sent = new URL(
          /content="0;url=([^"]+)"/.exec(page.text)![1]!.replaceAll('&amp;', '&').replaceAll('&#38;', '&'),
        ).searchParams;
        liar.nonce = sent.get('nonce')!;
        expect([sent.get('code_challenge_method'), sent.get('response_type')]).to.deep.equal(['S256', 'code']);
        const params = new URLSearchParams({ code: 'c', state: sent.get('state')!, iss: liar.issuer });
        more(params);
        return open(`/sign-in/back?${params}`, { cookie: page.errand });
      };
      expect((await come()).status, 'the truth').to.equal(303);
      const now = Math.floor(Date.now() / 1000);
      const lies: Record<string, typeof liar.lie> = {
        'another issuer': ({ claims, ...rest }) => ({
          ...rest,
          claims: { ...claims, iss: 'https://elsewhere.example' },
        }),
        'another audience': ({ claims, ...rest }) => ({ ...rest, claims: { ...claims, aud: 'another-client' } }),
        'no audience': ({ claims: { aud: _, ...claims }, ...rest }) => ({ ...rest, claims }),
        'another nonce': ({ claims, ...rest }) => ({ ...rest, claims: { ...claims, nonce: 'replayed' } }),
        'no nonce': ({ claims: { nonce: _, ...claims }, ...rest }) => ({ ...rest, claims }),
        'run out': ({ claims, ...rest }) => ({ ...rest, claims: { ...claims, iat: now - 7200, exp: now - 3600 } }),
        'no subject': ({ claims: { sub: _, ...claims }, ...rest }) => ({ ...rest, claims }),
        'signed by somebody else': (parts) => ({ ...parts, key: other }),
        'signed by nobody': ({ header, ...rest }) => ({ ...rest, header: { ...header, alg: 'none' } }),
        'signed in a way not said': ({ header, ...rest }) => ({ ...rest, header: { ...header, alg: 'HS256' } }),
        'not a token': () => 'nonsense',
      };
      for (const [what, lie] of Object.entries(lies)) {
        liar.lie = lie;
        const came = await come();
        expect([came.status, came.session, /could not be believed/.test(came.text)], what).to.deep.equal([
          401,
          '',
          true,
        ]);
      }
      liar.lie = (parts) => parts;
      for (const [what, change] of [
        ['a state that is not ours', (params: URLSearchParams) => params.set('state', 'another')],
        ['no state', (params: URLSearchParams) => params.delete('state')],
        // RFC 9207: an answer mixed up with another service's.
        ['another service’s answer', (params: URLSearchParams) => params.set('iss', 'https://elsewhere.example')],
        ['an answer that does not say whose it is', (params: URLSearchParams) => params.delete('iss')],
        ['an error', (params: URLSearchParams) => params.set('error', 'access_denied')],
        ['the code twice', (params: URLSearchParams) => params.append('code', 'd')],
      ] as const) {
        const came = await come(change);
        expect([came.status, came.session], what).to.deep.equal([401, '']);
      }
    } finally {
      await stage.db.query('delete from sign_on');
      await liar.close();
    }
  });
});

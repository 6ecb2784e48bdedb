import { createECDH } from 'node:crypto';
import { expect } from 'chai';
import webPush from 'web-push';
import { vapidKeys } from '../../src/gateways/push-service.ts';
import { newDeviceKeys, openPush, vapidProblem } from '../../src/practice/push-receiver.ts';

/** RFC 8291 Appendix A, from memory; it opens with the keys beside it or not at all. */
const RFC_8291 = {
  plaintext: 'When I grow up, I want to be a watermelon',
  device: {
    privateKey: 'q1dXpw3UpT5VOmu_cf_v6ih07Aems3njxI-JWgLcM94',
    publicKey: 'BCVxsr7N_eNgVRqvHtD0zTZsEc6-VV-JvLexhqUzORcxaOzi6-AYWXvTBHm4bjyPjs7Vd8pZGH6SRpkNtoIAiw4',
    auth: 'BTBZMqHH6r4Tts7J_aSIgg',
  },
  body: 'DGv6ra1nlYgDCS1FRnbzlwAAEABBBP4z9KsN6nGRTbVYI_c7VJSPQTBtkgcy27mlmlMoZIIgDll6e3vCYLocInmYWAmS6TlzAC8wEqKK6PBru3jl7A_yl95bQpu6cVPTpK4Mqgkf1CXztLVBSt2Ks3oZwbuwXPXLWyouBWLVWGNWQexSgSxsj_Qulcy4a-fN',
};

describe('pushes to devices, against RFC 8291, RFC 8292 and web-push', () => {
  it('the practice desk opens the example of RFC 8291, and nothing that has been changed', () => {
    const body = Buffer.from(RFC_8291.body, 'base64url');
    expect(openPush(body, RFC_8291.device)).to.equal(RFC_8291.plaintext);
    for (const at of [0, 15, 30, body.length - 1]) {
      const changed = Buffer.from(body);
      changed[at]! ^= 1;
      expect(() => openPush(changed, RFC_8291.device), `byte ${at}`).to.throw();
    }
    expect(() => openPush(body.subarray(0, 60), RFC_8291.device)).to.throw('too short');
  });

  it('opens what web-push encrypts for it, and only for it', () => {
    const [keys, others] = [newDeviceKeys(), newDeviceKeys()];
    for (const text of ['x', '{"title":"Zoë schreibt: “Grüße”"}', 'y'.repeat(3000)]) {
      const { cipherText } = webPush.encrypt(keys.publicKey, keys.auth, text, 'aes128gcm');
      expect(openPush(cipherText, keys)).to.equal(text);
      expect(() => openPush(cipherText, others)).to.throw();
    }
  });

  it('knows who sends: signed by the key it names, for this service, for a day at most', () => {
    const keys = vapidKeys(Buffer.alloc(32, 7));
    const origin = 'https://push.example';
    const now = Date.now();
    const signed = (audience: string, expires: number, subject = 'mailto:owner@school.example') =>
      webPush.getVapidHeaders(audience, subject, keys.publicKey, keys.privateKey, 'aes128gcm', expires).Authorization;
    const soon = Math.floor(now / 1000) + 3600;
    expect(vapidProblem(signed(origin, soon), origin, now)).to.equal(null);
    expect(vapidProblem(signed('https://other.example', soon), origin, now)).to.equal('it is for another service');
    expect(vapidProblem(signed(origin, soon), origin, now + 7_200_000)).to.equal('it has run out');
    const [head, rest] = signed(origin, soon).split('.', 2) as [string, string];
    const forged = signed(origin, soon).replace(
      `${head}.${rest}`,
      `${head}.${Buffer.from('{"aud":"x"}').toString('base64url')}`,
    );
    expect(vapidProblem(forged, origin, now)).to.equal('the signature is not by this key');
    expect(vapidProblem(undefined, origin, now)).to.equal('no vapid authorization');
    expect(vapidProblem('Bearer abc', origin, now)).to.equal('no vapid authorization');
  });

  it('has the same key pair from the same secret, the public one on the curve', () => {
    const [one, again, another] = [7, 7, 8].map((byte) => vapidKeys(Buffer.alloc(32, byte)));
    expect(one).to.deep.equal(again);
    expect(one!.publicKey).not.to.equal(another!.publicKey);
    const curve = createECDH('prime256v1');
    curve.generateKeys();
    expect(() => curve.computeSecret(Buffer.from(one!.publicKey, 'base64url'))).not.to.throw();
  });
});

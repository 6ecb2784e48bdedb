import type { AddressInfo } from 'node:net';
import { createServer, type Server, type Socket } from 'node:net';
import { expect } from 'chai';
import type { EmailMessage } from '../../src/core/workflow/plan.ts';
import { addressGuard } from '../../src/gateways/address-guard.ts';
import { MailSender } from '../../src/gateways/mail-server.ts';

const message = {
  ...{
    channel: 'email',
    audience: 'lead',
    to: 'ada@example.org',
    toName: 'Ada',
    subject: 'Hello',
    text: 'Hi',
    html: '<p>Hi</p>',
  },
  from: { name: 'Wrenfield', address: 'hello@wrenfield.example' },
} as EmailMessage;

describe('the address of an outgoing mail server', () => {
  let inside: Server;
  let port = 0;
  let reached = 0;
  const open = new Set<Socket>();
  before(async () => {
    inside = createServer((socket) => {
      reached += 1;
      open.add(socket);
      socket.on('error', () => {});
      socket.write('SSH-2.0-InsideSecret_9.9\r\n');
    });
    await new Promise<void>((resolve) => inside.listen(0, '::', resolve));
    port = (inside.address() as AddressInfo).port;
  });
  after(() => {
    for (const socket of open) socket.destroy();
    inside.close();
  });

  for (const host of [
    'localhost',
    '127.0.0.1',
    '127.1',
    '0x7f000001',
    '2130706433',
    '017700000001',
    '[::1]',
    '[::ffff:127.0.0.1]',
    '0.0.0.0',
    '0',
  ])
    it(`${host} leads inside: nothing is connected to, in no notation`, async () => {
      const mail = new MailSender(addressGuard(false));
      const account = { address: `smtp://${host}:${port}`, user: null, password: null };
      const before = reached;
      try {
        const answer = await mail.send(account, message, 'k');
        expect(answer.kind, JSON.stringify(answer)).to.equal('refused');
        const looked = await mail.lookIn(account);
        expect(looked.ok).to.equal(false);
        expect(JSON.stringify([answer, looked])).to.match(/not (a )?public/);
        expect(reached).to.equal(before);
      } finally {
        mail.close();
      }
    });

  it('what answers without being a mail server is not quoted', async () => {
    const mail = new MailSender(addressGuard(true));
    const account = { address: `smtp://127.0.0.1:${port}`, user: null, password: null };
    try {
      const told = JSON.stringify([await mail.send(account, message, 'k'), await mail.lookIn(account)]);
      expect(told)
        .to.match(/not a mail server/)
        .and.not.match(/InsideSecret/);
    } finally {
      mail.close();
    }
  });
});

import type pg from 'pg';
import type { PushSender } from '../../gateways/push-service.ts';
import { type DueWay, noticeLoop } from './notice-loop.ts';

interface Device extends DueWay {
  endpoint: string;
  p256dh: string;
  auth: string;
}

const PAUSE_MS = 15_000;

/** Tells people on their own devices what has come in, wherever they are. */
export const deviceNotices = (parts: { pool: pg.Pool; push: PushSender; now: () => number; random: () => number }) =>
  noticeLoop<Device>(parts, {
    name: 'device notices',
    table: 'push_device',
    columns: ['endpoint', 'p256dh', 'auth'],
    pauseMs: PAUSE_MS,
    async tell(device, notices) {
      for (const { title, url, tag, ...notice } of notices) {
        // Of two with one tag the later takes the place of the earlier: those of one business never that of another's.
        const answer = await parts.push.send(device, {
          ...notice,
          ...{
            title: device.several ? `${device.business}: ${title}` : title,
            url: `/at/${device.key}${url}`,
            tag: `${tag} ${device.key}`,
          },
        });
        if (answer.kind !== 'taken') return answer;
      }
      return { kind: 'taken' };
    },
  });

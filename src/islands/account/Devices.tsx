import BellRing from 'lucide-react/icons/bell-ring';
import { useEffect, useState } from 'react';
import type { DevicesView, DeviceView } from '../../app/account/devices.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { Line, Tick } from '../../components/fields.tsx';
import { TakeAway } from '../../components/row-buttons.tsx';
import { NOTICE_KINDS, type NoticeKind } from '../../core/notices/notices.ts';
import { type Place, whenWords } from '../../core/words/instant.ts';
import { askThisDevice, endpointHere, likelyName, whyNot } from './this-device.ts';

/** Devices of one's own, and what one is told of on each. */
export default function Devices({ first, place, now: at }: { first: DevicesView; place: Place; now: number }) {
  const { value, at: now, again } = useQuery(['devices'], () => call('GET', '/api/devices'), { first, at });
  const { act, busy, told } = useAction();
  const [name, setName] = useState('');
  const [here, setHere] = useState<string | null>(null);
  const [why, setWhy] = useState<string | null>(null);
  useEffect(() => {
    setName(likelyName());
    setWhy(whyNot());
    void endpointHere().then(setHere);
  }, []);
  const isHere = value.devices.some((device) => device.endpoint === here);
  const doing = (work: () => Promise<string>) =>
    act(
      async () => {
        const words = await work();
        await again();
        return words;
      },
      (words) => words,
    );
  const add = () =>
    doing(async () => {
      const subscription = await askThisDevice(value.publicKey);
      await call('POST', '/api/devices', { ...subscription, name: name.trim() || 'A device' });
      setHere(subscription.endpoint);
      return 'This device is told from now on.';
    });
  return (
    <section className="sheet-card mb-4 p-4" aria-label="Notices on your devices">
      <h2 className="mb-1 text-part">Notices on your devices</h2>
      <p className="mb-3 text-note text-ink-2">
        You are told of new leads and of what people write, also while Pine Bell is closed. What is told is encrypted
        for the device alone.
      </p>
      {value.devices.map((device) => (
        <OneDevice
          key={device.id}
          device={device}
          here={device.endpoint === here}
          when={device.toldAt && whenWords(device.toldAt, now, place)}
          busy={busy}
          onWants={(wants) =>
            void doing(async () => {
              await call('PUT', `/api/devices/${device.id}`, { wants });
              return 'Saved.';
            })
          }
          onTry={() => void doing(async () => (await call('POST', `/api/devices/${device.id}/try`)).said)}
          onRemove={() =>
            void doing(async () => {
              await call('DELETE', `/api/devices/${device.id}`);
              return `${device.name} is told no more.`;
            })
          }
        />
      ))}
      {!isHere && why === null && (
        <div className="flex flex-wrap items-end gap-2">
          <Line label="Name of this device" block="grow" small value={name} maxLength={60} onChange={setName} />
          <button type="button" className="btn btn-primary btn-sm" disabled={busy} onClick={() => void add()}>
            <BellRing className="size-4" aria-hidden="true" />
            Tell me on this device
          </button>
        </div>
      )}
      {why !== null && <p className="text-note text-ink-2">{why}</p>}
      {value.practice && !value.devices.some((device) => device.practice) && (
        <button
          type="button"
          className="btn btn-plain btn-sm mt-2"
          disabled={busy}
          onClick={() =>
            void doing(async () => {
              await call('POST', '/api/devices/practice');
              return 'A phone on the practice desk is told from now on: look there under Notices.';
            })
          }
        >
          Try it with a phone on the practice desk
        </button>
      )}
      <Notice told={told} className="mt-2" />
    </section>
  );
}

function OneDevice({
  device,
  here,
  when,
  busy,
  onWants,
  onTry,
  onRemove,
}: {
  device: DeviceView;
  here: boolean;
  when: string | null;
  busy: boolean;
  onWants: (wants: NoticeKind[]) => void;
  onTry: () => void;
  onRemove: () => void;
}) {
  return (
    <fieldset className="mb-3 rounded-lg border border-base-300 p-3">
      <legend className="px-1 font-semibold">
        {device.name}
        {here && <span className="font-normal text-ink-2">, this device</span>}
      </legend>
      <div className="flex items-start gap-2">
        <div className="flex min-w-0 grow flex-wrap gap-x-4">
          {(Object.keys(NOTICE_KINDS) as NoticeKind[]).map((kind) => (
            <Tick
              key={kind}
              label={NOTICE_KINDS[kind]}
              disabled={busy}
              value={device.wants.includes(kind)}
              onChange={(on) => onWants(on ? [...device.wants, kind] : device.wants.filter((one) => one !== kind))}
            />
          ))}
        </div>
        <div className="flex shrink-0 items-center gap-1">
          <button type="button" className="btn btn-plain btn-xs" disabled={busy} onClick={onTry}>
            Send one now
          </button>
          <TakeAway label={`Tell ${device.name} no more`} disabled={busy} onClick={onRemove} />
        </div>
      </div>
      <p className="text-note text-ink-2">
        {device.problem ? (
          <span className="text-warning">{device.problem} It is tried again.</span>
        ) : when ? (
          `Told last ${when}`
        ) : (
          'Nothing has been told yet'
        )}
      </p>
    </fieldset>
  );
}

import { clock, type DeskState, post } from './desk-api.ts';

/** Devices that take notices, with what has come on each: what a push service would hand to a phone that is locked. */
export function Notices({ desk }: { desk: DeskState }) {
  return (
    <section aria-label="Notices">
      <h2 className="mb-1 text-lg">Notices on devices</h2>
      <p className="mb-3 text-note text-ink-2">
        Stands for the push services of browsers. In Pine Bell, a device is added under Settings, You.
      </p>
      {desk.pushDevices.length === 0 && <p className="text-ink-2">No device takes notices yet.</p>}
      {desk.pushDevices.map((device) => (
        <article key={device.id} className="mb-4 rounded-lg border border-base-300 p-3" aria-label={device.name}>
          <div className="mb-2 flex items-center justify-between gap-2">
            <h3 className="text-part">{device.name}</h3>
            <button
              type="button"
              className="btn btn-plain btn-xs"
              onClick={() => void post(`/push-devices/${device.id}/off`, {})}
            >
              Turn notices off here
            </button>
          </div>
          {device.notices.length === 0 && <p className="text-note text-ink-2">Nothing has come yet.</p>}
          <ul>
            {[...device.notices].reverse().map((notice, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: two may come in the same instant
              <li key={`${notice.at} ${i}`} className="border-t border-base-300 py-1.5">
                <a className="block hover:bg-base-200" href={new URL(notice.url, desk.backTo).href}>
                  <span className="flex justify-between gap-2">
                    <b>{notice.title}</b>
                    <time className="text-note text-ink-2">{clock(notice.at)}</time>
                  </span>
                  <span className="block text-note text-ink-2">{notice.body}</span>
                </a>
              </li>
            ))}
          </ul>
        </article>
      ))}
    </section>
  );
}

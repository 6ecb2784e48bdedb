/** Why this device cannot be told, in words; null when it can. */
export function whyNot(): string | null {
  if (!window.isSecureContext) return 'Notices need https: open Pine Bell by its https address on the device.';
  if (!('serviceWorker' in navigator) || !('PushManager' in window) || !('Notification' in window))
    return 'This browser takes no notices. On a phone, put Pine Bell on the home screen first and open it from there.';
  if (Notification.permission === 'denied')
    return 'Notices of this page are blocked on this device. Allow them in the settings of the browser, and open this page again.';
  return null;
}

/** "Windows", "Android": a name to begin with. */
export function likelyName(): string {
  const { userAgentData } = navigator as Navigator & { userAgentData?: { platform?: string } };
  const platform =
    userAgentData?.platform || /iPhone|iPad|Android|Macintosh|Windows|Linux/.exec(navigator.userAgent)?.[0];
  return platform ? `My ${platform}` : 'My device';
}

const registered = async (): Promise<ServiceWorkerRegistration | null> =>
  (await navigator.serviceWorker?.getRegistration('/')) ?? null;

/** The address this device takes pushes at; null while it takes none. */
export async function endpointHere(): Promise<string | null> {
  try {
    return (await (await registered())?.pushManager?.getSubscription())?.endpoint ?? null;
  } catch {
    return null;
  }
}

/** Asks whoever is in front of it whether notices may come, and the browser for an address for them. `publicKey` is ours, base64url. */
export async function askThisDevice(
  publicKey: string,
): Promise<{ endpoint: string; keys: { p256dh: string; auth: string } }> {
  if ((await Notification.requestPermission()) !== 'granted')
    throw new Error('Notices were not allowed on this device, so none will come.');
  const worker = await navigator.serviceWorker.ready;
  const kept = await worker.pushManager.getSubscription();
  const subscription =
    kept ??
    (await worker.pushManager
      .subscribe({ userVisibleOnly: true, applicationServerKey: publicKey })
      .catch((error: unknown) => {
        throw new Error(
          `This browser cannot reach its push service${error instanceof Error ? `: ${error.message}` : ''}. Try again later.`,
        );
      }));
  const { endpoint, keys } = subscription.toJSON();
  if (!endpoint || !keys?.p256dh || !keys.auth) throw new Error('This browser gave no address for notices.');
  return { endpoint, keys: { p256dh: keys.p256dh, auth: keys.auth } };
}

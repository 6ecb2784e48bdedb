const LOOPBACK = ['127.0.0.1', 'localhost', '[::1]'];

/**
 * Whether a request names us as its host (RFC 9110 §7.2). A page of a stranger whose name was made to lead to this machine names itself, and is not
 * answered. `publicUrl` and names of `more` are ours; so is loopback, which no other machine's page can name.
 */
export function knownHost(publicUrl: string, more: readonly string[]): (host: string | undefined) => boolean {
  const ours = new Set([...LOOPBACK, new URL(publicUrl).hostname, ...more.map((one) => one.toLowerCase())]);
  return (host) => {
    const url = `http://${host ?? ''}`;
    return URL.canParse(url) && ours.has(new URL(url).hostname);
  };
}

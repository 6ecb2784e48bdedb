import { Problem } from '../../client/call.ts';

/** Why the device made or used no key, in words (W3C Web Authentication §5.1.3, step 22, and §5.1.4.1 name the errors). */
export function keyTrouble(error: unknown): never {
  const name = (error as { name?: string }).name ?? '';
  const words =
    name === 'NotAllowedError'
      ? 'It was broken off, or took too long. Try once more.'
      : name === 'InvalidStateError'
        ? 'This device has a passkey of yours already.'
        : name === 'SecurityError'
          ? 'A passkey belongs to a name, and Pine Bell was opened by numbers. On this machine open it as localhost.'
          : 'This device could make no passkey. Try another one.';
  throw new Problem(0, words, null, 'key');
}

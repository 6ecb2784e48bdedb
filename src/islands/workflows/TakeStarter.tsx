import type { ShareLook } from '../../app/share/look.ts';
import { TakeShare } from './TakeShare.tsx';

/** A starter, looked at and taken. */
export default function TakeStarter({ file, look, mayTake }: { file: unknown; look: ShareLook; mayTake: boolean }) {
  return <TakeShare file={file} look={look} button="Take this workflow" mayTake={mayTake} />;
}

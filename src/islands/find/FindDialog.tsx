import {
  Combobox,
  ComboboxGroup,
  ComboboxGroupLabel,
  ComboboxItem,
  ComboboxList,
  ComboboxProvider,
} from '@ariakit/react';
import CornerDownLeft from 'lucide-react/icons/corner-down-left';
import { useEffect, useRef, useState } from 'react';
import type { Found } from '../../app/find/find.ts';
import { call, messageOf } from '../../client/call.ts';
import { comeAnew, goTo } from '../../client/go-to.ts';
import { Modal } from '../../client/Modal.tsx';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useDebounced } from '../../client/use-debounced.ts';
import type { Role } from '../../core/people/rights.ts';
import { type Deed, deedsFor, readQuery } from './deeds.ts';
import { noteRecent, recentDeeds } from './recent.ts';

interface Props {
  role: Role;
  help: { href: string; name: string }[];
  onClose: () => void;
  onKeys: () => void;
}

/** Find and do: people, everything that has a name, views and deeds, by a few letters. */
export default function FindDialog({ role, help, onClose, onKeys }: Props) {
  const [typed, setTyped] = useState('');
  const [found, setFound] = useState<Found[]>([]);
  const [problem, setProblem] = useState('');
  const { act, busy, told } = useAction();
  const asked = useDebounced(readQuery(typed).name, 80);
  // What `found` answers. Until it is what was typed, what stands first may be something else a moment later.
  const [answered, setAnswered] = useState('');
  const [entered, setEntered] = useState(false);
  const turn = useRef(0);
  // Whether another than the first was gone to since the last letter.
  const moved = useRef(false);
  useEffect(() => {
    const mine = ++turn.current;
    if (asked === '') {
      setFound([]);
      setAnswered('');
      return;
    }
    call('GET', `/api/find?${new URLSearchParams({ q: asked })}`).then(
      (answer) => {
        if (mine !== turn.current) return;
        setFound(answer.found);
        setAnswered(asked);
        setProblem('');
      },
      (error: unknown) => {
        if (mine !== turn.current) return;
        setFound([]);
        setAnswered(asked);
        setProblem(messageOf(error));
        setEntered(false);
      },
    );
  }, [asked]);
  const recent = typed.trim() === '' ? recentDeeds() : [];
  const groups = [
    ...(recent.length > 0 ? [{ name: 'Opened of late', deeds: recent }] : []),
    ...deedsFor(typed, found, { role, help }),
  ];
  const choose = (deed: Deed) => {
    if (deed.does === 'keys') return onKeys();
    void act(async () => {
      if (deed.does === 'go') {
        noteRecent(deed);
        onClose();
        await goTo(deed.href);
        return;
      }
      await call('PUT', `/api/workflows/${deed.workflow}/live`, { paused: deed.paused });
      await comeAnew();
    });
  };
  const settled = answered === readQuery(typed).name;
  const first = groups[0]?.deeds[0];
  // Enter that came before its answer: done now, with what stands first now.
  useEffect(() => {
    if (!entered || !settled) return;
    setEntered(false);
    if (first) choose(first);
  });
  return (
    <Modal label="Find and do" className="!mt-[10vh] w-[640px] max-w-[94vw]" onClose={onClose}>
      <ComboboxProvider
        setValue={(value) => {
          moved.current = false;
          setEntered(false);
          setTyped(value);
        }}
        value={typed}
        defaultOpen
      >
        <Combobox
          autoSelect="always"
          autoFocus
          className="w-full border-b border-base-300 bg-transparent px-4 py-3 text-base outline-none"
          placeholder="A name, a number, an address; or what you want to do"
          aria-label="Find and do"
          maxLength={100}
          onKeyDownCapture={(event) => {
            if (['ArrowDown', 'ArrowUp', 'PageDown', 'PageUp'].includes(event.key)) moved.current = true;
            if (event.key !== 'Enter' || event.nativeEvent.isComposing || moved.current) return;
            // What stands first is meant, also in the moment before the list has marked it.
            event.preventDefault();
            event.stopPropagation();
            setEntered(true);
          }}
        />
        <Notice told={told ?? (problem ? { text: problem, good: false } : null)} className="m-3" />
        <ComboboxList
          alwaysVisible
          className="max-h-[55vh] overflow-y-auto p-2"
          data-testid="found"
          aria-busy={busy}
          onPointerMove={() => {
            moved.current = true;
          }}
        >
          {groups.map(({ name, deeds }) => (
            <ComboboxGroup key={name} className="mb-1">
              <ComboboxGroupLabel className="px-2 py-1 text-xs font-semibold text-ink-2">{name}</ComboboxGroupLabel>
              {deeds.map((deed) => (
                <ComboboxItem
                  key={`${name} ${deed.id}`}
                  className="group flex cursor-pointer items-center gap-3 rounded-lg px-2 py-1.5 data-[active-item]:bg-pine-soft"
                  focusOnHover
                  hideOnClick={false}
                  setValueOnClick={false}
                  onClick={() => choose(deed)}
                >
                  <span className="min-w-0 shrink-0 truncate font-medium">{deed.words}</span>
                  <span className="min-w-0 grow truncate text-note text-ink-2">{deed.about}</span>
                  <CornerDownLeft
                    className="invisible size-4 shrink-0 text-ink-2 group-data-[active-item]:visible"
                    aria-hidden="true"
                  />
                </ComboboxItem>
              ))}
            </ComboboxGroup>
          ))}
          {groups.length === 0 && (
            <p className="p-4 text-ink-2">{asked === readQuery(typed).name ? 'Nothing of that name.' : 'Looking …'}</p>
          )}
        </ComboboxList>
      </ComboboxProvider>
    </Modal>
  );
}

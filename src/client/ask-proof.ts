/** A piece of the dialog below. */
function piece<K extends keyof HTMLElementTagNameMap>(
  tag: K,
  own: Partial<HTMLElementTagNameMap[K]>,
  ...inside: (Node | string)[]
): HTMLElementTagNameMap[K] {
  const made = Object.assign(document.createElement(tag), own);
  made.append(...inside);
  return made;
}

/**
 * Asks for the password once more, over whatever is on the screen. Made by hand and not by a view: anything that is done anywhere may ask for it.
 *
 * @param prove throws, with words to show, where it is not theirs
 * @returns whether it was proved; false when it was broken off
 */
export function askForProof(why: string, prove: (password: string) => Promise<unknown>): Promise<boolean> {
  return new Promise((resolve) => {
    const input = piece('input', {
      ...{ type: 'password', className: 'input input-sm', autocomplete: 'current-password', required: true },
      maxLength: 1000,
    });
    const problem = piece('p', { className: 'notice bad mb-3', hidden: true });
    problem.setAttribute('role', 'alert');
    const go = piece('button', { type: 'submit', className: 'btn btn-primary btn-sm' }, 'Go on');
    const leave = piece('button', { type: 'button', className: 'btn btn-ghost btn-sm' }, 'Not now');
    const form = piece(
      'form',
      { className: 'p-5' },
      piece('h2', { className: 'mb-2 text-lg' }, 'Is it still you?'),
      piece('p', { className: 'mb-3 text-ink-2' }, why),
      problem,
      piece('label', { className: 'mb-3 block' }, piece('span', { className: 'field-label' }, 'Your password'), input),
      piece('div', { className: 'flex gap-2' }, go, leave),
    );
    const dialog = piece(
      'dialog',
      {
        className:
          'm-auto w-full max-w-sm rounded-box border border-base-300 bg-base-100 p-0 text-base-content shadow-xl backdrop:bg-black/40',
        ariaLabel: 'Your password once more',
      },
      form,
    );
    let proved = false;
    form.addEventListener('submit', (event) => {
      event.preventDefault();
      go.disabled = true;
      problem.hidden = true;
      prove(input.value).then(
        () => {
          proved = true;
          dialog.close();
        },
        (error: unknown) => {
          go.disabled = false;
          problem.hidden = false;
          problem.textContent = (error as Error).message;
          input.select();
        },
      );
    });
    leave.addEventListener('click', () => dialog.close());
    dialog.addEventListener('close', () => {
      dialog.remove();
      resolve(proved);
    });
    document.body.append(dialog);
    dialog.showModal();
    input.focus();
  });
}

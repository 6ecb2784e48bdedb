/** A small button with an icon. `title` is said of it where more than its name is to be told. */
export function Tool({
  label,
  title = label,
  onClick,
  disabled = false,
  pressed,
  large = false,
  children,
}: {
  label: string;
  title?: string;
  onClick: () => void;
  disabled?: boolean | undefined;
  pressed?: boolean;
  large?: boolean;
  children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      className={`btn btn-ghost ${large ? 'btn-sm' : 'btn-xs'} btn-square shrink-0 text-ink-2 disabled:opacity-40`}
      aria-label={label}
      title={title}
      aria-pressed={pressed}
      disabled={disabled}
      onClick={onClick}
    >
      {children}
    </button>
  );
}

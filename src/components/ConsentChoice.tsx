/** Whether a message needs consent. */
export function ConsentChoice({
  what,
  needsConsent,
  onChange,
}: {
  what: string;
  needsConsent: boolean;
  onChange: (needs: boolean) => void;
}) {
  return (
    <label className="mb-2 flex items-center gap-2 text-[13px]">
      <input
        type="checkbox"
        className="checkbox checkbox-sm"
        checked={needsConsent}
        data-field="needsConsent"
        onChange={(event) => onChange(event.target.checked)}
      />
      Only with consent to {what}
    </label>
  );
}

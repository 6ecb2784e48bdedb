/** Whether a message needs consent, and what happens when the outside world refuses it. */
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

export function IfRefused({
  value,
  onChange,
}: {
  value: 'carry_on' | 'stop_lane';
  onChange: (value: 'carry_on' | 'stop_lane') => void;
}) {
  return (
    <label className="mb-3 block">
      <span className="field-label">If it can't be delivered</span>
      <select className="select" value={value} onChange={(event) => onChange(event.target.value as typeof value)}>
        <option value="carry_on">Tell me, and carry on below</option>
        <option value="stop_lane">Tell me, and leave out what stands below</option>
      </select>
    </label>
  );
}

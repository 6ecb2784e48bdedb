/**
 * Binds fields to the settings they are of: `<Line label="Name" {...of('name')} />` shows `settings.name` and changes it. `field` is the name of the
 * setting, by which the "To check" list finds the field.
 */
export function bound<Settings extends object>(settings: Settings, change: (patch: Partial<Settings>) => void) {
  return <Key extends keyof Settings & string>(field: Key) => ({
    field,
    value: settings[field],
    onChange: (value: Settings[Key]) => change({ [field]: value } as unknown as Partial<Settings>),
  });
}

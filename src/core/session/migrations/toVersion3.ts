/** Version 3 adds modulators; nothing of version 2 sounds otherwise. */
export function toVersion3(old: Record<string, unknown>): Record<string, unknown> {
  return { ...old, version: 3, modulators: {} };
}

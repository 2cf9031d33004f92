/**
 * What this browser holds until the server has it. The store may be full or switched off: then nothing is lost that the
 * server takes, and typing goes on.
 */
const bulky = "/workings";

function makeRoom(): boolean {
  const keys = Object.keys(localStorage).filter((k) => k.startsWith("green-slate/") && k.endsWith(bulky));
  for (const key of keys) localStorage.removeItem(key);
  return keys.length > 0;
}

/** Whether it could be held. */
export function holdSpare(key: string, value: unknown): boolean {
  const text = JSON.stringify(value);
  try {
    localStorage.setItem(key, text);
    return true;
  } catch {
    // Notes and ink are large and go first: what was typed as an answer matters more.
  }
  try {
    if (key.endsWith(bulky) || !makeRoom()) return false;
    localStorage.setItem(key, text);
    return true;
  } catch {
    return false;
  }
}

export function findSpare<T>(key: string): T | null {
  try {
    const held = localStorage.getItem(key);
    return held === null ? null : (JSON.parse(held) as T);
  } catch {
    dropSpare(key);
    return null;
  }
}

export function dropSpare(key: string) {
  try {
    localStorage.removeItem(key);
  } catch {
    // A store that is switched off holds nothing.
  }
}

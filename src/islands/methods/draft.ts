/** What the bench keeps in this browser. A full or forbidden store costs only the resume on this device. */
export function keepLocally(name: string, value: unknown): void {
  try {
    localStorage.setItem(name, JSON.stringify(value));
  } catch {
    // The server has every answer; nothing more can be done here.
  }
}

/** What was kept under a name, or null when there is nothing that can be read. */
export function readLocally<T>(name: string): T | null {
  try {
    return JSON.parse(localStorage.getItem(name) ?? 'null') as T | null;
  } catch {
    return null;
  }
}

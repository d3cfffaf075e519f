import { readBytes } from './endpoint';

/** A photograph as a phone sends it, and the words around it. */
const MOST_BYTES = 12_500_000;

/** What a form of a page sent: its fields, several of a name as one list, and its photograph; null where it cannot be read. */
export async function readForm(
  request: Request,
): Promise<{ fields: Record<string, string>; picture: Uint8Array | null } | null> {
  try {
    const bytes = await readBytes(request, MOST_BYTES);
    if (bytes === null) return null;
    const type = request.headers.get('content-type') ?? '';
    const form = await new Response(new Uint8Array(bytes), { headers: { 'content-type': type } }).formData();
    const fields: Record<string, string> = {};
    let picture: Uint8Array | null = null;
    for (const [name, value] of form.entries()) {
      if (typeof value === 'string') fields[name] = name in fields ? `${fields[name]},${value}` : value;
      else if (name === 'picture' && value.size > 0) picture = new Uint8Array(await value.arrayBuffer());
    }
    return { fields, picture };
  } catch {
    return null;
  }
}

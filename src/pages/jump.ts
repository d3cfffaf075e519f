import type { APIRoute } from 'astro';
import { mayGo } from '../../contract/permissions';
import { tagPath } from '../../core/instruments/tag';
import { find } from '../../server/find/find';
import { findByTag } from '../../server/fleet/instruments';
import { lotLabels } from '../../server/stock/catalogue';

/** A label reader types an address; nobody types more. */
const MOST_LETTERS = 300;

/** Where the jump box leads: a tag (typed or scanned) to its instrument, anything else to a search of the fleet. */
export const GET: APIRoute = async ({ url, locals, redirect }) => {
  const text = (url.searchParams.get('q') ?? '').slice(0, MOST_LETTERS).trim();
  // A label reader types the address of a label as it stands there.
  const way = /^https?:\/\/[^/]+(\/r\/[\w-]+)$/i.exec(text)?.[1];
  if (way) return redirect(way);
  const instrument = await findByTag(locals.db, text);
  if (instrument) return redirect(`/instruments/${tagPath(instrument.tag)}`);
  // The label of a lot leads to its product.
  const lot = Number(/^LOT-(\d+)$/i.exec(text)?.[1] ?? 0);
  const [label] = lot ? await lotLabels(locals.db, [lot]) : [];
  if (label) return redirect(`/stock/products/${label.productId}`);
  const commands: Record<string, string> = {
    today: '/',
    fleet: '/fleet',
    stock: '/stock',
    orders: '/stock/orders',
    kit: '/stock/kit',
    count: '/stock/count',
    add: '/instruments/new',
  };
  const command = Object.hasOwn(commands, text.toLowerCase()) ? commands[text.toLowerCase()] : undefined;
  if (command) return redirect(command);
  const hits = await find(locals.db, text, (href) => mayGo(locals.person.role, href));
  // One thing alone is meant, or nothing of the fleet: there it is.
  const [first] = hits;
  if (first && (hits.length === 1 || first.kind !== 'instrument')) return redirect(first.href);
  return redirect(`/fleet?q=${encodeURIComponent(text)}`);
};

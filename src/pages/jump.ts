import type { APIRoute } from 'astro';
import { findByTag } from '../../server/fleet/instruments';
import { lotLabels } from '../../server/stock/catalogue';

/** Where the jump box leads: a tag (typed or scanned) to its instrument, anything else to a search of the fleet. */
export const GET: APIRoute = async ({ url, locals, redirect }) => {
  const text = (url.searchParams.get('q') ?? '').trim();
  const instrument = await findByTag(locals.db, text);
  if (instrument) return redirect(`/instruments/${encodeURIComponent(instrument.tag)}`);
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
  return redirect(command ?? `/fleet?q=${encodeURIComponent(text)}`);
};

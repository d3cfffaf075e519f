import type { APIRoute } from 'astro';

/** Where the jump box leads: a tag (typed or scanned) to its instrument, anything else to a search of the fleet. */
export const GET: APIRoute = async ({ url, locals, redirect }) => {
  const text = (url.searchParams.get('q') ?? '').trim();
  const instrument = await locals.db('instrument').where({ tag: text.toUpperCase() }).first();
  if (instrument) return redirect(`/instruments/${instrument.tag}`);
  // The label of a lot leads to its product.
  const lot = Number(/^LOT-(\d+)$/i.exec(text)?.[1] ?? 0);
  const lotRow = lot ? await locals.db('lot').where({ id: lot }).first() : null;
  if (lotRow) return redirect(`/stock/products/${lotRow.product_id}`);
  const command = {
    today: '/',
    fleet: '/fleet',
    stock: '/stock',
    orders: '/stock/orders',
    kit: '/stock/kit',
    count: '/stock/count',
    add: '/instruments/new',
  }[text.toLowerCase()];
  return redirect(command ?? `/fleet?q=${encodeURIComponent(text)}`);
};

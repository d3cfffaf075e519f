import type { APIRoute } from 'astro';

/** Where the jump box leads: a tag (typed or scanned) to its instrument, anything else to a search of the fleet. */
export const GET: APIRoute = async ({ url, locals, redirect }) => {
  const text = (url.searchParams.get('q') ?? '').trim();
  const instrument = await locals.db('instrument').where({ tag: text.toUpperCase() }).first();
  if (instrument) return redirect(`/instruments/${instrument.tag}`);
  const command = { today: '/', fleet: '/fleet', stock: '/stock', add: '/instruments/new' }[text.toLowerCase()];
  return redirect(command ?? `/fleet?q=${encodeURIComponent(text)}`);
};

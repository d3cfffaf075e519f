import type { APIRoute } from 'astro';
import { notFound } from '../../../../../server/errors';
import { toCsv } from '../../../../../server/export/tables';
import { skusOf } from '../../../../../server/stock/catalogue';
import { loadOrders } from '../../../../../server/stock/orders';
import { problemOf } from '../../../../api/problem';

/** An order as a list for its supplier. */
export const GET: APIRoute = async ({ params, locals }) => {
  try {
    const [order] = await loadOrders(locals.db, locals.today, Number(params.id) || -1);
    if (!order) return problemOf(notFound('This order'));
    const skus = await skusOf(
      locals.db,
      order.lines.map((l) => l.productId),
    );
    const rows = order.lines.map((l) => [skus.get(l.productId) ?? '', l.name, l.quantity, (l.cents / 100).toFixed(2)]);
    return new Response(toCsv({ heads: ['Code', 'Item', 'Quantity', 'Price each'], rows }), {
      headers: {
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': `attachment; filename="order-${order.id}.csv"`,
      },
    });
  } catch (error) {
    return problemOf(error);
  }
};

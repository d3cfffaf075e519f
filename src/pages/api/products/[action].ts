import {
  ConsumableShape,
  HybridShape,
  SetShape,
  SingleShape,
  SourceShape,
  SubstituteShape,
  SupplierShape,
  supplierSaid,
  UsualSetShape,
  WholeSetShape,
} from '../../../../contract/stock';
import { mmOfThou } from '../../../../core/strings/tension';
import { addConsumable, addHybrid, setSubstitutes } from '../../../../server/stock/catalogue';
import { addWholeSet, takeUsualSet } from '../../../../server/stock/edit';
import { addSupplier, setSource } from '../../../../server/stock/orders';
import { addSet, addSingle } from '../../../../server/stock/products';
import { action, actions } from '../../../api/actions';

const shown = <T extends { productId: number }>(result: T) => ({
  ...result,
  location: `/stock/products/${result.productId}`,
});

export const POST = actions({
  single: action(SingleShape, async (by, body, { locals }) => {
    const { gaugeThou, coreThou, price, wrap, ...rest } = body;
    // A plain string is its own core; of a wound one an unknown core is taken at a usual share of the gauge.
    const core = wrap === null ? gaugeThou : (coreThou ?? gaugeThou * 0.42);
    return shown(
      await addSingle(locals.db, by, {
        ...rest,
        wrap,
        gaugeMm: mmOfThou(gaugeThou),
        coreMm: mmOfThou(core),
        massKgPerM: null,
        priceCents: price,
      }),
    );
  }),
  set: action(SetShape, async (by, { price, ...body }, { locals }) =>
    shown(await addSet(locals.db, by, { ...body, priceCents: price })),
  ),
  'whole-set': action(WholeSetShape, async (by, body, { locals }) => shown(await addWholeSet(locals.db, by, body))),
  usual: action(UsualSetShape, (by, body, { locals }) => takeUsualSet(locals.db, by, body)),
  consumable: action(ConsumableShape, async (by, { price, ...body }, { locals }) =>
    shown(await addConsumable(locals.db, by, { ...body, priceCents: price })),
  ),
  hybrid: action(HybridShape, async (by, body, { locals }) =>
    shown(
      await addHybrid(locals.db, by, {
        sku: body.sku,
        name: body.name,
        family: body.family,
        parts: [
          { setId: body.firstSetId, numbers: body.firstNumbers },
          { setId: body.secondSetId, numbers: body.secondNumbers },
        ],
      }),
    ),
  ),
  supplier: action(SupplierShape, async (by, body, { locals }) => {
    const made = await addSupplier(locals.db, by, supplierSaid(body));
    return { ...made, location: '/stock/orders' };
  }),
  source: action(SourceShape, (by, { price, ...body }, { locals }) =>
    setSource(locals.db, by, { ...body, cents: price }),
  ),
  substitutes: action(SubstituteShape, (by, body, { locals }) => setSubstitutes(locals.db, by, body)),
});

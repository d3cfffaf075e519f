import { z } from 'zod';
import { FAMILIES, STRING_ENDS } from '../core/instruments/build';
import { SMALL_PARTS } from '../core/parts/smallParts';
import { CORE_MATERIALS, WRAP_MATERIALS } from '../core/strings/materials';
import { Code, Day, Id, Ids, Money, Name, num, Quantity, Reason, Seen } from './basics';

export const TakeShape = z.object({ lotId: Id, placeId: Id, quantity: Quantity });

export const ScrapShape = TakeShape.extend({ reason: Reason });

export const TransferShape = z.object({
  takes: z.array(TakeShape).min(1).max(200),
  toPlaceId: Id,
  reason: Reason,
  /** For a kit; then nobody need say why. */
  kit: z.boolean().default(false),
});

/** One lot carried, as a form sends it. */
export const CarryShape = TakeShape.extend({ toPlaceId: Id });

export const BackShape = z.object({
  productId: Id,
  form: z.enum(['set', 'single', 'half']),
  quantity: Quantity,
  placeId: Id,
  reason: Reason,
});

export const TakeBackShape = z.object({ moveId: Id, reason: Reason });

export const CountShape = z.object({
  placeId: Id,
  reason: Reason,
  lines: z
    .array(
      z.object({
        productId: Id,
        form: z.enum(['set', 'single', 'half']),
        /** What the book said when the count began. */
        expected: z.int().min(0),
        counted: z.int().min(0).max(100_000),
      }),
    )
    .max(500),
});

const OrderLines = z.array(z.object({ productId: Id, quantity: num(z.int().min(0).max(10_000)) })).max(100);

export const DraftShape = z.object({ supplierId: Id, placeId: Id, lines: OrderLines, note: Reason });

export const PutOnDraftShape = z.object({ productId: Id, quantity: num(z.int().min(1).max(10_000)), placeId: Id });

export const EditDraftShape = z.object({ expectedVersion: num(z.int()), lines: OrderLines, note: Reason });

export const PostponeShape = z.object({ expectedVersion: num(z.int()), expectedOn: Day });

export const ConfirmShape = z.object({
  expectedVersion: num(z.int()),
  theirNumber: z.string().trim().max(60).default(''),
  expectedOn: Day,
  lines: OrderLines,
});

export const ReceiveShape = z.object({ expectedVersion: num(z.int()), lines: OrderLines });

export const SupplierShape = z.object({
  name: Name,
  leadDays: num(z.int().min(0).max(365)),
  latePercent: num(z.number().min(0).max(100)).default(0),
  lateDays: num(z.int().min(0).max(90)).default(0),
  least: Money,
  orderCost: Money,
  email: z.union([z.literal(''), z.email('use an address such as orders@example.org')]).default(''),
});

export const EditSupplierShape = SupplierShape.extend({
  expectedVersion: num(z.int()),
  retired: z.preprocess((v) => v === true || v === 'on' || v === 'true', z.boolean()),
});

/** A supplier as its form says it: a share of a hundred, money in hundredths. */
export const supplierSaid = <T extends z.output<typeof SupplierShape>>({
  latePercent,
  least,
  orderCost,
  ...rest
}: T) => ({
  ...rest,
  lateShare: latePercent / 100,
  leastOrderCents: least,
  orderCostCents: orderCost,
});

export const SourceShape = z.object({
  productId: Id,
  supplierId: Id,
  pack: num(z.int().min(1).max(1000)),
  price: Money,
  was: Seen,
});

export const ConsumableShape = z.object({
  sku: Code,
  name: Name,
  unit: z.string().trim().max(20),
  least: num(z.int().min(0).max(1000)),
  price: Money,
  smallPart: z.union([z.literal(''), z.enum(SMALL_PARTS)]).default(''),
});

const Millimetres = num(z.number().positive().max(5000));

export const SingleShape = z.object({
  sku: Code,
  name: Name,
  family: z.enum(FAMILIES),
  gaugeThou: num(z.number().positive().max(400)),
  coreThou: z.preprocess((v) => (v === '' ? undefined : v), num(z.number().positive().max(400)).optional()),
  core: z.enum(CORE_MATERIALS),
  wrap: z.preprocess((v) => (v === '' ? null : v), z.enum(WRAP_MATERIALS).nullable()),
  lengthMm: Millimetres,
  stringEnd: z.enum(STRING_ENDS),
  doubleLength: z.stringbool().default(false),
  price: Money,
});

export const SetShape = z.object({
  marks: z.string().trim().max(300).default(''),
  sku: Code,
  name: Name,
  family: z.enum(FAMILIES),
  price: Money,
  /** Positions with their strings: "6=12, 5=13". */
  items: z.preprocess(
    (value) =>
      typeof value === 'string'
        ? value
            .split(/[,;\s]+/)
            .filter(Boolean)
            .map((pair) => {
              const [number, productId] = pair.split('=').map(Number);
              return { number, productId };
            })
        : value,
    z
      .array(z.object({ number: z.int().min(1).max(24), productId: z.int() }))
      .min(1)
      .max(24),
  ),
});

export const HybridShape = z.object({
  sku: Code,
  name: Name,
  family: z.enum(FAMILIES),
  firstSetId: Id,
  firstNumbers: Ids,
  secondSetId: Id,
  secondNumbers: Ids,
});

export const SubstituteShape = z.object({ productId: Id, substituteIds: Ids, was: Seen });

export type Take = z.output<typeof TakeShape>;
export type Scrap = z.output<typeof ScrapShape>;
export type Transfer = z.output<typeof TransferShape>;
export type Back = z.output<typeof BackShape>;
export type Count = z.output<typeof CountShape>;
export type OrderedLine = z.output<typeof OrderLines>[number];
export type Draft = z.output<typeof DraftShape>;
export type EditedDraft = z.output<typeof EditDraftShape>;
export type Confirmation = z.output<typeof ConfirmShape>;
export type Arrival = z.output<typeof ReceiveShape>;

/** Packs that came without an order. */
export const CountInShape = z.object({
  productId: num(z.int()),
  quantity: num(z.int().min(1).max(1000)),
  placeId: num(z.int()),
  cents: num(z.int().min(0).max(10_000_000)).nullable().default(null),
  /** It came besides what is on order. */
  besides: z.preprocess((v) => v === true || v === 'on' || v === 'true', z.boolean()),
});

const SizeOrAny = z.union([z.literal('').transform(() => null), z.null(), z.string().max(20)]).default(null);

/** A product as its form sends it. */
export const EditProductShape = z.object({
  expectedVersion: num(z.int()),
  sku: Code,
  name: Name,
  price: Money,
  size: SizeOrAny,
  marks: z.string().trim().max(300).optional(),
  least: num(z.int().min(0).max(1000)).optional(),
  retired: z.preprocess((v) => v === true || v === 'on' || v === 'true', z.boolean()),
});
export type EditProduct = z.output<typeof EditProductShape>;

/** A set with its strings in one form. */
export const WholeSetShape = z.object({
  sku: Code,
  name: Name,
  family: z.enum(FAMILIES),
  size: SizeOrAny,
  gauges: z.string().trim().min(1, 'enter the gauges of its strings').max(200),
  core: z.enum(CORE_MATERIALS),
  wrap: z.enum(WRAP_MATERIALS),
  stringEnd: z.enum(STRING_ENDS),
  lengthMm: z.union([z.literal('').transform(() => null), z.null(), num(z.number().min(100).max(5000))]).default(null),
  price: Money,
  marks: z.string().trim().max(300).default(''),
});
export type WholeSet = z.output<typeof WholeSetShape>;

export const UsualSetShape = z.object({ family: z.enum(FAMILIES), size: z.string().max(20), sku: z.string().max(30) });

/** What lies at a place to begin with: `n-12` is how many of product 12 there are; empty ones say nothing. */
export const OpeningShape = z
  .object({ placeId: Id })
  .catchall(z.union([z.literal('').transform(() => 0), num(z.int().min(0).max(10_000))]))
  .transform(({ placeId, ...lines }) => ({
    placeId,
    lines: Object.entries(lines).flatMap(([key, quantity]) => {
      const id = Number(/^n-(\d+)$/.exec(key)?.[1]);
      return id > 0 && typeof quantity === 'number' && quantity > 0 ? [{ productId: id, quantity }] : [];
    }),
  }))
  .refine((p) => p.lines.length > 0, 'enter how many there are of at least one product');
export type Opening = z.output<typeof OpeningShape>;

import {
  BackShape,
  CarryShape,
  CountShape,
  OpeningShape,
  ScrapShape,
  TakeBackShape,
  TakeShape,
  TransferShape,
} from '../../../../contract/stock';
import { countPlace } from '../../../../server/stock/counts';
import {
  backToShelf,
  halveStrings,
  openSets,
  openShelf,
  scrap,
  takeBack,
  transfer,
} from '../../../../server/stock/moves';
import { action, actions } from '../../../api/actions';

export const POST = actions({
  transfer: action(TransferShape, (by, body, { locals }) => transfer(locals.db, by, body)),
  carry: action(CarryShape, (by, { toPlaceId, ...take }, { locals }) =>
    transfer(locals.db, by, { takes: [take], toPlaceId, reason: '' }),
  ),
  scrap: action(ScrapShape, (by, body, { locals }) => scrap(locals.db, by, body)),
  open: action(TakeShape, (by, body, { locals }) => openSets(locals.db, by, body)),
  halve: action(TakeShape, (by, body, { locals }) => halveStrings(locals.db, by, body)),
  back: action(BackShape, (by, body, { locals }) => backToShelf(locals.db, by, body)),
  'take-back': action(TakeBackShape, (by, body, { locals }) => takeBack(locals.db, by, body)),
  opening: action(OpeningShape, (by, body, { locals }) => openShelf(locals.db, by, body)),
  count: action(CountShape, (by, body, { locals }) => countPlace(locals.db, by, body)),
});

import { StoodByShape } from '../../../../../contract/access';
import { requireDigits } from '../../../../../server/access/accounts';
import { standBy } from '../../../../../server/bench/supervised';
import { addressOf } from '../../../../api/access';
import { changing, pathId } from '../../../../api/endpoint';

/** Somebody stood by: whoever is signed in, or at a shared bench whoever gives their digits. */
export const POST = changing(StoodByShape, async (acting, body, context) => {
  const { db, today, session } = context.locals;
  const by = { ...acting };
  if (body.personId !== undefined && body.personId !== acting.personId) {
    await requireDigits(
      db,
      { personId: body.personId, pin: body.pin },
      { deviceId: session.deviceId, address: addressOf(context) },
    );
    by.personId = body.personId;
  }
  return standBy(db, by, { recordId: pathId(context) }, today);
});

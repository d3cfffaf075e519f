import {
  ChangePasswordShape,
  DistrictNameShape,
  EndDeviceShape,
  EndFeedShape,
  EndSessionShape,
  EnrolShape,
  FeedShape,
  GiveCodeShape,
  SetPinShape,
} from '../../../../contract/access';
import {
  changePassword,
  closeAccount,
  endDevice,
  endOwnSession,
  enrolDevice,
  giveCode,
  setPin,
} from '../../../../server/access/accounts';
import { nameInDistrict } from '../../../../server/access/district';
import { endFeed, makeFeed } from '../../../../server/access/feeds';
import { addressOf, keepDevice } from '../../../api/access';
import { action, actions } from '../../../api/actions';

export const POST = actions({
  password: action(ChangePasswordShape, (by, body, context) =>
    changePassword(context.locals.db, by, {
      ...body,
      sessionId: context.locals.session.id,
      address: addressOf(context),
    }),
  ),
  pin: action(SetPinShape, (by, body, context) =>
    setPin(context.locals.db, by, {
      ...body,
      sessionId: context.locals.session.id,
      address: addressOf(context),
    }),
  ),
  'end-session': action(EndSessionShape, (by, body, { locals }) =>
    endOwnSession(locals.db, by, { ...body, current: locals.session.id }),
  ),
  code: action(GiveCodeShape, (by, body, { locals }) => giveCode(locals.db, by, body)),
  close: action(GiveCodeShape, (by, body, { locals }) => closeAccount(locals.db, by, body)),
  district: action(DistrictNameShape, (by, body, { locals }) => nameInDistrict(locals.db, by, body)),
  enrol: action(EnrolShape, async (by, body, context) => {
    const { deviceId, token } = await enrolDevice(context.locals.db, by, body);
    // A repeat whose first answer was lost has no token to give: the device is ended and enrolled anew.
    if (token) keepDevice(context, token);
    return { deviceId };
  }),
  'end-device': action(EndDeviceShape, (by, body, { locals }) => endDevice(locals.db, by, body)),
  feed: action(FeedShape, (by, body, { locals }) => makeFeed(locals.db, by, body)),
  'end-feed': action(EndFeedShape, (by, body, { locals }) => endFeed(locals.db, by, body)),
});

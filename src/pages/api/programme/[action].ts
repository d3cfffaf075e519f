import { TrustShape } from '../../../../contract/people';
import { editTrust } from '../../../../server/programme/manage';
import { action, actions } from '../../../api/actions';

export const POST = actions({
  trust: action(TrustShape, (acting, body, { locals }) => editTrust(locals.db, acting, body)),
});

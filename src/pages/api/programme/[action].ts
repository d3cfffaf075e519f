import { EraseShape, NothingShape, TrustShape } from '../../../../contract/people';
import { eraseSubject } from '../../../../server/audit/subject';
import { takeBackup } from '../../../../server/programme/backups';
import { editTrust } from '../../../../server/programme/manage';
import { action, actions } from '../../../api/actions';

export const POST = actions({
  trust: action(TrustShape, (acting, body, { locals }) => editTrust(locals.db, acting, body)),
  erase: action(EraseShape, (acting, { again: _, ...body }, { locals }) => eraseSubject(locals.db, acting, body)),
  backup: action(NothingShape, (acting, _, { locals }) => takeBackup(locals.db, acting)),
});

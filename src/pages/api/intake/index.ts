import { FileShape } from '../../../../contract/intake';
import { addFile } from '../../../../server/intake/intake';
import { changingBytes } from '../../../api/endpoint';

/** A list as it comes: CSV or .xlsx. It is read and kept as a draft; nothing else changes by it. */
export const POST = changingBytes(FileShape, (acting, { query, bytes }, { locals }) =>
  addFile(locals.db, acting, { name: query.name, bytes }),
);

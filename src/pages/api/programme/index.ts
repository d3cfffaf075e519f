import { ProgrammeShape } from '../../../../contract/people';
import { editProgramme } from '../../../../server/programme/manage';
import { changing } from '../../../api/endpoint';

export const POST = changing(ProgrammeShape, (acting, body, { locals }) => editProgramme(locals.db, acting, body));

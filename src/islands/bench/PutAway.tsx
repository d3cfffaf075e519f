import { useState } from 'react';
import { tagPath } from '../../../core/instruments/tag';
import { post } from '../../ui/post';

/** Closes a job on which no string was changed. */
export function PutAway({ jobId, version, tag }: { jobId: number; version: number; tag: string }) {
  const [sure, setSure] = useState(false);
  const [failed, setFailed] = useState('');
  const put = async () => {
    if (!sure) return setSure(true);
    const answer = await post(`/api/jobs/${jobId}/cancel`, { expectedVersion: version }, `cancel-${jobId}-${version}`);
    if (answer.ok) location.assign(`/instruments/${tagPath(tag)}`);
    else setFailed(answer.problem?.detail ?? 'No answer from the server. Try again; it is recorded only once.');
  };
  return (
    <>
      <button type="button" className="btn btn-ghost min-h-14 text-lg" onClick={() => void put()}>
        {sure ? 'Yes, no string was changed' : 'Stop here, unchanged'}
      </button>
      {failed && (
        <span role="alert" className="text-error text-lg">
          {failed}
        </span>
      )}
    </>
  );
}

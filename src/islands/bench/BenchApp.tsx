import { tagPath } from '../../../core/instruments/tag';
import { dropsOf, movesOn } from '../../../core/procedures/answers';
import { cautionsAt, type Screen } from '../../../core/procedures/led';
import { isChange, PHASES } from '../../../core/procedures/types';
import { later } from '../../ui/later';
import { BenchBar } from './BenchBar';
import { BenchFoot } from './BenchFoot';
import { BriefView } from './BriefView';
import { AsFound, NotesBox } from './Notes';
import { PanelView } from './Panels';
import { ScreenView } from './ScreenView';
import { BenchStrip, StepView } from './StepView';
import { Title } from './Title';
import { type BenchProps, useBench } from './useBench';

const Tuner = later(() => import('./Tuner').then((m) => m.Tuner), 'Loading…');
const Kit = later(() => import('./Kit').then((m) => m.Kit), 'Loading…');
const LookForm = later(() => import('./LookForm').then((m) => m.LookForm), 'Loading…');
const FinishForm = later(() => import('./FinishForm').then((m) => m.FinishForm), 'Loading…');
const Depart = later(() => import('./Depart').then((m) => m.Depart), 'Loading…');

export function BenchApp(props: BenchProps) {
  const { job, positions, batch } = props;
  const of = useBench(props);
  const {
    steps,
    lead,
    screens,
    cursor,
    panel,
    setPanel,
    setTuner,
    setKitPassed,
    ahead,
    answers,
    saving,
    closed,
    loss,
    arrivedClose,
    device,
    heading,
    beside,
    kit,
    index,
    screen,
    step,
    ticked,
    tuner,
    answer,
    confirmGate,
    back,
    mistakes,
    log,
    noTo,
    which,
    skips,
    left,
    locked,
    tick,
    walk,
    arrived,
    skip,
    progress,
    strip,
    brokenAt,
    noted,
    worked,
  } = of;
  return (
    <div className={`${batch ? 'grow' : 'min-h-screen'} flex flex-col text-[22px]`}>
      <BenchBar of={of} props={props} />
      {closed && cursor !== 'finish' && (
        <p role="alert" className="card-paper border-error m-4 p-4">
          {closed} Anything you enter from here is still kept.{' '}
          <a className="link" href={`/instruments/${tagPath(job.tag)}`}>
            See {job.tag}
          </a>
        </p>
      )}
      <main className="grow px-7 py-2 flex flex-col" data-ready={device !== null}>
        {!device ? (
          <p className="muted">Loading…</p>
        ) : kit ? (
          <Kit bench={props} device={device} start={() => setKitPassed(true)} heading={heading} />
        ) : (cursor === 'finish' || !step || !screen) && isChange(job.kind) ? (
          <FinishForm
            {...props}
            device={device}
            closing={arrivedClose}
            brokenAt={brokenAt}
            worked={worked()}
            at={() => Math.round(Date.now() - ahead)}
            saving={saving}
            back={steps.length ? back : null}
          />
        ) : cursor === 'finish' || !step || !screen ? (
          <LookForm
            {...props}
            device={device}
            closing={arrivedClose}
            answers={answers}
            worked={worked()}
            at={() => Math.round(Date.now() - ahead)}
            back={steps.length ? back : null}
          />
        ) : (
          <>
            {lead === 'string' || (lead === 'phase' && screen.kind === 'step') ? (
              <BenchStrip strip={strip} positions={positions} progress={progress} now={step.positions} />
            ) : null}
            {lead === 'brief' && !screen.steps.some((s) => s.note || s.choices) ? (
              <BriefView
                screens={screens}
                index={index}
                bench={props}
                method={job.procedure?.method}
                heading={heading}
                ticked={ticked}
                tick={tick}
                compact={tuner}
              />
            ) : screen.kind === 'step' ? (
              <StepView
                step={step}
                cautions={lead === 'string' ? (step.cautions ?? []) : cautionsAt(screens, index)}
                next={screens[index + 1] && <Title screen={screens[index + 1] as Screen} bench={props} />}
                heading={heading}
                bench={props}
                method={job.procedure?.method}
                count={`${index + 1} of ${screens.length}`}
                choose={(i) => answer({ outcome: 'done', choice: i }, [step])}
                compact={tuner}
              />
            ) : (
              <ScreenView
                screens={screens}
                index={index}
                bench={props}
                method={job.procedure?.method}
                heading={heading}
                ticked={ticked}
                tick={tick}
                compact={tuner}
              />
            )}
            {props.marks && screen.steps.some((s) => s.id === 'prepare.layout') && (
              <p className="mt-3 text-lg">
                <span className="muted">Markings on envelopes or ball ends: </span>
                {props.marks}
              </p>
            )}
            {step.note && (
              <NotesBox
                key={step.key}
                asks={step.note}
                noted={noted}
                note={(asked, said) => answer({ outcome: 'measured', noted: { asked, said } }, [step])}
                before={props.before}
                tag={job.tag}
                today={props.today}
                device={device}
                jobId={job.id}
                personId={props.personId}
                step={step.key}
              />
            )}
            {!step.note && PHASES.indexOf(step.phase) >= PHASES.indexOf('remove') && (
              <AsFound noted={noted} before={props.before} device={device} />
            )}
            {tuner && (
              <Tuner
                strings={props.tuned}
                rounds={step.phase === 'stretch' ? (job.procedure?.method.stretchRounds ?? 0) : null}
                drops={dropsOf(answers)}
                walk={walk}
                arrived={arrived}
                log={(number, flat) =>
                  answer({ outcome: 'measured', drop: { number, cents: Math.round(flat * 10) / 10 } }, [step])
                }
                close={() => setTuner(false)}
              />
            )}
            <div aria-live="polite" ref={beside}>
              {panel.kind === 'depart' && job.procedure ? (
                <Depart
                  job={job}
                  method={job.procedure.method}
                  begun={answers.some((a) => movesOn(a) && steps.find((s) => s.key === a.step)?.phase === 'slacken')}
                  measured={steps.every((s) => s.id !== 'fit-post.thread' || s.numbers?.slack?.measured)}
                  close={() => setPanel({ kind: 'none' })}
                />
              ) : (
                <PanelView
                  panel={panel}
                  steps={screen.steps}
                  mistakes={mistakes}
                  locked={locked}
                  strings={positions.filter((p) => which.includes(p.number))}
                  loss={loss}
                  confirmGate={confirmGate}
                  override={(because) => answer({ outcome: 'done', passed: because }, left)}
                  log={log}
                  skips={skips}
                  skip={skip}
                  noTo={noTo}
                  close={() => setPanel({ kind: 'none' })}
                />
              )}
            </div>
          </>
        )}
      </main>
      <BenchFoot of={of} props={props} />
    </div>
  );
}

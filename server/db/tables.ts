// Made from the schema by scripts/tables.ts; a test says when it is no longer true.
import type { Knex } from 'knex';
import type { WrongId } from '../../core/faults/wrongs';
import type { Family } from '../../core/instruments/build';
import type { Subject } from '../../core/intake/columns';
import type { DayStyle } from '../../core/intake/days';
import type { Manner } from '../../core/manner';
import type { Said } from '../../core/procedures/answers';
import type { Lead } from '../../core/procedures/led';
import type { JobKind } from '../../core/procedures/types';
import type { VisitKind } from '../../core/settling/readyBy';
import type { CareRule, Due, Inspection, OpenReport } from '../../core/wear/due';
import type { Climate } from '../../core/wear/exposure';
import type { IntervalScope } from '../../core/wear/intervals';

/** SQLite has none of its own: written as a boolean, read as 0 or 1. */
type Bool = boolean | 0 | 1;

/** The rows of each table and view. */
interface Rows {
  account: {
    person_id: number;
    password_hash: string | null;
    pin_hash: string | null;
    code_hash: string | null;
    code_until: number | null;
    district_name: string | null;
    district_subject: string | null;
  };
  audit: {
    id: number;
    at: number;
    person_id: number;
    action: string;
    entity: string;
    entity_id: number;
    idempotency_key: string;
    detail: string;
    from_where: string;
    changed: string;
    detail_hash: string;
    prev_hash: string;
    hash: string;
  };
  availability: {
    id: number;
    person_id: number;
    place_id: number;
    weekday: number;
    minutes: number;
    starts: string;
  };
  availability_exception: {
    person_id: number;
    on_day: string;
    why: string;
    from_time: string;
    to_time: string;
  };
  availability_once: {
    id: number;
    person_id: number;
    place_id: number;
    on_day: string;
    starts: string;
    minutes: number;
    instead: Bool;
    why: string;
    together: string;
  };
  batch: {
    id: number;
    place_id: number;
    opened_by: number;
    opened_at: number;
  };
  bench_device: {
    id: number;
    token_hash: string;
    name: string;
    enrolled_by: number;
    at: number;
    revoked_at: number | null;
  };
  change_record: {
    id: number;
    job_id: number;
    instrument_id: number;
    kind: string;
    corrects_id: number | null;
    at: number;
    on_day: string;
    person_id: number;
    notes: string;
    minutes: number | null;
    parts: string | null;
    card_minutes: number | null;
    taken_back: Bool;
    supervised_by: number | null;
    supervised_at: number | null;
    done: string;
  };
  class: {
    id: number;
    name: string;
    place_id: number | null;
    weekday: number;
    from_time: string;
    to_time: string;
    from_on: string;
    to_on: string;
  };
  class_instrument: {
    class_id: number;
    instrument_id: number;
  };
  concert: {
    id: number;
    name: string;
    on_day: string;
    place_id: number | null;
    source: string;
  };
  concert_instrument: {
    concert_id: number;
    instrument_id: number;
  };
  delivery: {
    id: number;
    order_id: number;
    arrives_on: string;
    lines: string;
    status: string;
    received_at: number | null;
    person_id: number | null;
    differences: string;
  };
  fault_case: {
    id: number;
    instrument_id: number;
    person_id: number;
    at: number;
    on_day: string;
    symptom: string;
    number: number | null;
    cause: string;
    next: string;
    note: string;
    job_id: number | null;
    status: string;
    closed_by: number | null;
    closed_at: number | null;
    version: number;
    checked_by: string;
    found: string;
    named: string | null;
  };
  feed: {
    id: number;
    token: string;
    person_id: number | null;
    place_id: number | null;
    made_by: number;
    at: number;
    revoked_at: number | null;
  };
  follow_up: {
    id: number;
    instrument_id: number;
    record_id: number | null;
    kind: VisitKind;
    day: number;
    due_at: number;
    due_on: string;
    status: string;
    done_by: number | null;
    done_at: number | null;
    note: string;
    cancelled_by_record_id: number | null;
    version: number;
  };
  holiday: {
    id: number;
    from_on: string;
    to_on: string;
    name: string;
    place_id: number | null;
    source: string;
  };
  idempotency: {
    key: string;
    action: string;
    person_id: number;
    request_hash: string;
    response: string;
    at: number;
  };
  inspection: {
    id: number;
    instrument_id: number;
    record_id: number;
    on_day: string;
    answers: string;
    score: number;
    verdict: Inspection['verdict'];
  };
  instrument: {
    id: number;
    tag: string;
    family: Family;
    size: string;
    handedness: string;
    scale_mm: number;
    head: string;
    tuner: string;
    tail_end: string;
    bridge: string;
    string_end: string;
    fingerboard: string;
    extras: string;
    post_diameter_mm: number;
    post_room_mm: number;
    post_spacing_mm: number;
    place_id: number;
    holder: string;
    house_set_id: number | null;
    note: string;
    known_since_on: string;
    version: number;
    player: string;
    tag_key: string;
    noted_length_mm: number | null;
    noted_on: string | null;
    facts: string;
    maker: string;
    model: string;
    serial: string;
    retired_why: string;
    first_look_on: string | null;
    retired_on: string | null;
    takes_two: Bool;
  };
  instrument_busy: {
    id: number;
    instrument_id: number;
    from_on: string;
    to_on: string;
    why: string;
    source: string;
    kind: string;
    from_time: string | null;
    to_time: string | null;
  };
  instrument_position: {
    instrument_id: number;
    number: number;
    course: number;
    note: string;
    side: string;
    post_order: number;
    nut_to_post_mm: number;
    speaking_length_mm: number | null;
    house_product_id: number | null;
    house_half: Bool;
    now_state: 'on' | 'missing';
    now_entry_id: number | null;
    now_product_id: number | null;
    now_half: Bool;
    now_fitted_at: number | null;
    nut_slot_mm: number | null;
  };
  instrument_state: {
    instrument_id: number;
    tag: string;
    place_id: number;
    place_name: string;
    holder: string;
    size: string;
    family: Family;
    facts: string;
    due_on: string;
    due_by: Due['by'];
    due: string;
    strip: string;
    broken: Bool;
    ready_at: number | null;
    concert_on: string | null;
    changed_on: string | null;
    search: string;
    to_change: string;
    due_work: string;
    last_job_id: number | null;
    change_whole: Bool;
    changed_done: string | null;
  };
  instrument_touched: {
    seq: number;
    instrument_id: number;
  };
  intake: {
    id: number;
    at: number;
    person_id: number;
    file_name: string;
    sheet: string;
    subject: Subject;
    status: 'open' | 'applied' | 'undone' | 'dropped';
    version: number;
    found: string;
    heads: string;
    rows: string;
    decisions: string;
    applied_at: number | null;
    applied_by: number | null;
    made: string;
  };
  intake_made: {
    id: number;
    intake_id: number;
    entity: string;
    entity_id: number;
    version: number | null;
    before: string | null;
  };
  intake_profile: {
    heads_key: string;
    subject: Subject;
    fields: string;
    day_style: DayStyle;
  };
  intake_word: {
    word: string;
    means: string;
    at: number;
  };
  interval_version: {
    id: number;
    of_key: string;
    version: number;
    scope: IntervalScope;
    family: Family | null;
    product_id: number | null;
    instrument_id: number | null;
    withdrawn: Bool;
    school: CareRule['school'];
    calendar_days: number;
    play_hours: number;
    never_over_days: number;
    why: string;
    person_id: number | null;
    at: number | null;
  };
  job: {
    id: number;
    instrument_id: number;
    kind: JobKind;
    status: 'open' | 'finished' | 'cancelled';
    procedure_hash: string | null;
    strings: string;
    cursor: string | null;
    opened_by: number;
    opened_at: number;
    version: number;
    method: string | null;
    method_version: number | null;
    departure: string | null;
    batch_id: number | null;
    batch_place: number | null;
    halves: string;
    despite: string;
  };
  job_answer: {
    id: number;
    job_id: number;
    step: string;
    outcome: Said['outcome'];
    person_id: number;
    at: number;
    key: string;
    given_at: number | null;
    said: string;
  };
  job_loss: {
    id: number;
    job_id: number;
    number: number;
    product_id: number;
    lot_id: number;
    place_id: number;
    half: Bool;
    cost_cents: number;
    at: number;
    returned: Bool;
  };
  job_phase: {
    job_id: number;
    phase: string;
    minutes: number;
  };
  known_browser: {
    browser_hash: string;
    person_id: number;
    seen_at: number;
  };
  label_link: {
    id: number;
    token: string;
    instrument_id: number;
    made_at: number;
    revoked_at: number | null;
  };
  late_pass: {
    browser_hash: string;
    person_id: number;
    job_id: number;
    device_id: number | null;
    until: number;
  };
  lot: {
    id: number;
    product_id: number;
    form: string;
    sealed: Bool;
    received_on: string;
    unit_cost_cents: number;
    from_lot_id: number | null;
    order_id: number | null;
    label: string;
  };
  lot_balance: {
    lot_id: number;
    place_id: number;
    on_hand: number;
    value_cents: number;
  };
  method_version: {
    id: number;
    family: Family;
    version: number;
    house: string;
    person_id: number | null;
    at: number | null;
    why: string;
  };
  order_line: {
    id: number;
    order_id: number;
    product_id: number;
    quantity: number;
    confirmed: number | null;
    received: number;
    cents: number;
  };
  person: {
    id: number;
    name: string;
    initials: string;
    role: 'coordinator' | 'technician' | 'helper' | 'teacher';
    place_id: number;
    horizon_on: string | null;
    lead: Lead | null;
    version: number;
    retired_on: string | null;
  };
  photo: {
    id: number;
    hash: string;
    instrument_id: number;
    job_id: number | null;
    step: string;
    bytes: number;
    person_id: number;
    at: number;
    removed_at: number | null;
  };
  place: {
    id: number;
    name: string;
    is_store: Bool;
    climate: Climate;
    bench_space: number | null;
    version: number;
    retired_on: string | null;
    last_way: string;
  };
  plan: {
    id: number;
    person_id: number;
    published_at: number;
    cost: number;
    bound: number | null;
  };
  plan_job: {
    plan_id: number;
    instrument_id: number;
    kind: string;
    person_id: number;
    place_id: number;
    on_day: string;
    minutes: number;
    locked: Bool;
    learner_id: number | null;
    starts_at: number | null;
    aside: string;
    aside_by: number | null;
    aside_at: number | null;
    supervisor_id: number | null;
  };
  plan_proposal: {
    id: number;
    made_at: number;
    on_day: string;
    based_on: number | null;
    cost: number;
    cost_before: number;
    bound: number | null;
    items: string;
    status: string;
  };
  plan_request: {
    id: number;
    instrument_id: number;
    kind: 'service' | 'refit' | 'inspection';
    due_on: string;
    why: string;
    person_id: number;
    at: number;
    status: string;
    done_by_record_id: number | null;
  };
  plan_weights: {
    id: number;
    weights: string;
    version: number;
  };
  practice: {
    id: number;
    person_id: number;
    family: Family;
    on_day: string;
    at: number;
    asked: number;
    right: number;
  };
  price: {
    id: number;
    product_id: number;
    supplier_id: number | null;
    cents: number;
    on_day: string;
    order_id: number | null;
  };
  procedure_snapshot: {
    hash: string;
    body: string;
  };
  product: {
    id: number;
    sku: string;
    name: string;
    kind: 'single' | 'set' | 'hybrid' | 'consumable';
    family: Family | null;
    gauge_mm: number | null;
    core_mm: number | null;
    core: string | null;
    wrap: string | null;
    mass_kg_per_m: number | null;
    length_mm: number | null;
    string_end: string | null;
    double_length: Bool;
    price_cents: number;
    marks: string | null;
    coated: Bool;
    hex_core: Bool;
    flat_wound: Bool;
    winding_mm: number | null;
    unit: string;
    least: number;
    pack: number;
    supplier_id: number | null;
    retired_on: string | null;
    small_part: string;
    size: string | null;
    version: number;
  };
  programme: {
    id: number;
    name: string;
    time_zone: string;
    a4_hz: number;
    created_at: number;
    is_demo: Bool;
    version: number;
    currency: string;
    day_style: Manner['days'];
    week_starts: number;
    lengths: Manner['lengths'];
    gauges: Manner['gauges'];
    day_from: string;
    day_to: string;
    address: string;
    by_label: Bool;
    performance: 'own' | 'coordinator' | 'desk';
    said_days: number;
  };
  purchase_order: {
    id: number;
    supplier_id: number;
    place_id: number;
    status: 'draft' | 'sent' | 'confirmed' | 'part' | 'received' | 'closed' | 'cancelled';
    version: number;
    person_id: number;
    made_at: number;
    sent_at: number | null;
    expected_on: string | null;
    their_number: string;
    note: string;
  };
  recipe_part: {
    hybrid_id: number;
    number: number;
    set_id: number;
  };
  record_note: {
    id: number;
    record_id: number;
    person_id: number;
    at: number;
    text: string;
  };
  report: {
    id: number;
    instrument_id: number;
    person_id: number;
    at: number;
    on_day: string;
    kind: OpenReport['kind'];
    numbers: string;
    text: string;
    closed_by_record_id: number | null;
  };
  reservation: {
    id: number;
    job_id: number;
    lot_id: number;
    place_id: number;
    quantity: number;
    spare: Bool;
    person_id: number;
    at: number;
    reason: string;
  };
  reserved: {
    lot_id: number;
    place_id: number;
    job_id: number;
    spare: Bool;
    quantity: number;
  };
  retune_reading: {
    id: number;
    instrument_id: number;
    follow_up_id: number | null;
    number: number;
    flat_cents: number;
    person_id: number;
    at: number;
  };
  said: {
    id: number;
    instrument_id: number;
    at: number;
    on_day: string;
    wrong: WrongId;
    numbers: string;
    text: string;
    who: string;
    person_id: number | null;
    hash: string | null;
    report_id: number | null;
    case_id: number | null;
    taken_by: number | null;
    taken_at: number | null;
    version: number;
  };
  session: {
    id: number;
    token_hash: string;
    before_hash: string | null;
    before_until: number | null;
    person_id: number;
    device_id: number | null;
    made_at: number;
    rotated_at: number;
    seen_at: number;
    until: number;
    agent: string;
  };
  set_item: {
    set_id: number;
    number: number;
    product_id: number;
  };
  sign_off: {
    person_id: number;
    family: Family;
    level: number;
  };
  standing_record: {
    id: number;
    job_id: number;
    instrument_id: number;
    kind: string;
    at: number;
    on_day: string;
    person_id: number;
    done: string;
    notes: string;
    minutes: number;
    card_minutes: number;
    parts: string;
  };
  stock_count: {
    id: number;
    place_id: number;
    product_id: number;
    form: string;
    expected: number;
    counted: number;
    reason: string;
    person_id: number;
    at: number;
  };
  stock_move: {
    id: number;
    lot_id: number;
    place_id: number;
    kind: string;
    quantity: number;
    record_id: number | null;
    person_id: number;
    at: number;
    reason: string;
    reverses_id: number | null;
    job_id: number | null;
    value_cents: number;
    op: string;
    why: string;
  };
  string_entry: {
    id: number;
    record_id: number;
    instrument_id: number;
    number: number;
    action: 'fit' | 'kept' | 'left-off';
    product_id: number | null;
    lot_id: number | null;
    half: Bool;
    cost_cents: number;
    at: number;
    broken: number;
  };
  substitute: {
    product_id: number;
    substitute_id: number;
    rank: number;
    note: string;
  };
  supplier: {
    id: number;
    name: string;
    lead_days: number;
    late_share: number;
    late_days: number;
    least_order_cents: number;
    order_cost_cents: number;
    version: number;
    simulated: Bool;
    email: string;
    retired_on: string | null;
  };
  travel: {
    from_id: number;
    to_id: number;
    minutes: number;
  };
  use_period: {
    id: number;
    instrument_id: number;
    from_on: string;
    to_on: string | null;
    hours_per_week: number;
    source: string;
  };
}

type Written<R> = { [K in keyof R]?: R[K] | Knex.Raw };
type Typed = { [T in keyof Rows]: Knex.CompositeTableType<Rows[T], Written<Rows[T]>, Written<Rows[T]>> };

declare module 'knex/types/tables.js' {
  interface Tables extends Typed {}
}

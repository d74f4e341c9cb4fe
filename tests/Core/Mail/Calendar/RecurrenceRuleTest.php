<?php

declare(strict_types=1);

use Kaiseki\Core\Mail\Calendar\CalendarTime;
use Kaiseki\Core\Mail\Calendar\ContentLine;
use Kaiseki\Core\Mail\Calendar\RecurrenceRule;
use Kaiseki\Core\Mail\Calendar\RuleWords;
use Tests\Support\CalendarSamples;
use Tests\Support\MailSamples;

function ruleOf(string $rule, string $start): ?RecurrenceRule
{
    $time = CalendarTime::of(ContentLine::parse("DTSTART:$start"), new DateTimeZone('America/New_York'));
    assert($time !== null);

    return RecurrenceRule::parse($rule, $time);
}

/** @return list<string> */
function instancesOf(?RecurrenceRule $rule, int $most, string $format = 'Y-m-d', ?DateTimeImmutable $from = null): array
{
    $found = [];
    foreach ($rule?->instances($from) ?? [] as $instance) {
        $found[] = $instance->format($format);
        if (count($found) === $most) {
            break;
        }
    }

    return $found;
}

it('repeats as RFC 5545 shows it, section 3.8.5.3', function (string $start, string $rule, array $days): void {
    expect(instancesOf(ruleOf($rule, "{$start}T090000"), count($days) + (str_contains($rule, 'COUNT') ? 1 : 0)))->toBe($days);
})->with([
    ['19970902', 'FREQ=DAILY;INTERVAL=10;COUNT=5', ['1997-09-02', '1997-09-12', '1997-09-22', '1997-10-02', '1997-10-12']],
    ['19970902', 'FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH', [
        '1997-09-02', '1997-09-04', '1997-09-16', '1997-09-18', '1997-09-30', '1997-10-02', '1997-10-14', '1997-10-16',
    ]],
    ['19970905', 'FREQ=MONTHLY;COUNT=6;BYDAY=1FR', ['1997-09-05', '1997-10-03', '1997-11-07', '1997-12-05', '1998-01-02', '1998-02-06']],
    ['19970907', 'FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU', [
        '1997-09-07', '1997-09-28', '1997-11-02', '1997-11-30', '1998-01-04', '1998-01-25', '1998-03-01', '1998-03-29', '1998-05-03',
        '1998-05-31',
    ]],
    ['19970922', 'FREQ=MONTHLY;COUNT=6;BYDAY=-2MO', ['1997-09-22', '1997-10-20', '1997-11-17', '1997-12-22', '1998-01-19', '1998-02-16']],
    ['19970928', 'FREQ=MONTHLY;BYMONTHDAY=-3', ['1997-09-28', '1997-10-29', '1997-11-28', '1997-12-29', '1998-01-29', '1998-02-26']],
    ['19970930', 'FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1', [
        '1997-09-30', '1997-10-01', '1997-10-31', '1997-11-01', '1997-11-30', '1997-12-01', '1997-12-31', '1998-01-01', '1998-01-31',
        '1998-02-01',
    ]],
    ['19970910', 'FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15', [
        '1997-09-10', '1997-09-11', '1997-09-12', '1997-09-13', '1997-09-14', '1997-09-15', '1999-03-10', '1999-03-11', '1999-03-12',
        '1999-03-13',
    ]],
    ['19970101', 'FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200', [
        '1997-01-01', '1997-04-10', '1997-07-19', '2000-01-01', '2000-04-09', '2000-07-18', '2003-01-01', '2003-04-10', '2003-07-19',
        '2006-01-01',
    ]],
    ['19970519', 'FREQ=YEARLY;BYDAY=20MO', ['1997-05-19', '1998-05-18', '1999-05-17']],
    ['19970512', 'FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO', ['1997-05-12', '1998-05-11', '1999-05-17']],
    ['19970902', 'FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13', ['1998-02-13', '1998-03-13', '1998-11-13', '1999-08-13', '2000-10-13']],
    ['19961105', 'FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8', ['1996-11-05', '2000-11-07', '2004-11-02']],
    ['19970904', 'FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3', ['1997-09-04', '1997-10-07', '1997-11-06']],
    ['19970929', 'FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2', [
        '1997-09-29', '1997-10-30', '1997-11-27', '1997-12-30', '1998-01-29', '1998-02-26', '1998-03-30',
    ]],
    ['19970805', 'FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO', ['1997-08-05', '1997-08-10', '1997-08-19', '1997-08-24']],
    ['19970805', 'FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU', ['1997-08-05', '1997-08-17', '1997-08-19', '1997-08-31']],
    ['20070115', 'FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5', ['2007-01-15', '2007-01-30', '2007-02-15', '2007-03-15', '2007-03-30']],
]);

it('takes an end in UTC on the wall of its zone, as the every day of January of RFC 5545', function (): void {
    $days = instancesOf(ruleOf('FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA', '19980101T090000'), 1_000);
    expect($days)->toHaveCount(93)->and(end($days))->toBe('2000-01-31');
});

it('gives what dateutil gives, for rules from a seed', function (int $seed): void {
    $samples = new CalendarSamples($seed);
    $rules = array_map(fn (): array => $samples->rule(), range(1, 60));
    $program = <<<'PYTHON'
        import json, sys, datetime
        from dateutil.rrule import rrulestr
        out = []
        for start, rule in json.load(sys.stdin):
            begin = datetime.datetime.strptime(start, '%Y%m%dT%H%M%S')
            found = []
            try:
                for one in rrulestr('RRULE:' + rule, dtstart=begin):
                    found.append(one.strftime('%Y%m%dT%H%M%S'))
                    if len(found) == 50: break
            except ValueError:
                found = []
            out.append(found)
        print(json.dumps(out))
        PYTHON;
    $theirs = MailSamples::python($program, $rules);
    foreach ($rules as $number => [$start, $rule]) {
        expect(instancesOf(ruleOf($rule, $start), 50, 'Ymd\THis'))->toBe($theirs[$number], "$start $rule");
    }
})->with(deeper([1, 2, 3, 4, 5]));

it('gives the same from the middle on as it gives from its beginning', function (): void {
    $samples = new CalendarSamples(77);
    for ($number = 0; $number < 80; $number++) {
        [$start, $rule] = $samples->rule();
        $from = new DateTimeImmutable(sprintf('2022-%02d-11 00:00', $samples->between(1, 12)), new DateTimeZone('UTC'));
        $least = $from->format('Y-m-d H:i');
        $all = array_filter(instancesOf(ruleOf($rule, $start), 5_000, 'Y-m-d H:i'), fn (string $one): bool => $one >= $least);
        $some = instancesOf(ruleOf($rule, $start), 20, 'Y-m-d H:i', $from);
        if (count($all) >= count($some)) { // else there are more than were asked for before it
            expect($some)->toBe(array_slice(array_values($all), 0, 20), "$start $rule");
        }
    }
});

it('ends with a rule that means nothing, or never', function (string $rule): void {
    expect(count(instancesOf(ruleOf($rule, '20260601T080000'), 30_000)))->toBeLessThanOrEqual(RecurrenceRule::MOST);
})->with([
    'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30', 'FREQ=MONTHLY;BYMONTH=2;BYMONTHDAY=31', 'FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30',
    'FREQ=SECONDLY', 'FREQ=MINUTELY;BYMONTH=2;BYMONTHDAY=30', 'FREQ=HOURLY;BYHOUR=5;BYSETPOS=9', 'FREQ=DAILY;COUNT=999999999',
    'FREQ=YEARLY;INTERVAL=9999', 'FREQ=WEEKLY;BYDAY=MO;BYSETPOS=200',
    'FREQ=YEARLY;BYHOUR=0,1,2,3,4,5,6,7,8;BYMINUTE=1,2,3,4,5;BYSECOND=1,2,3',
]);

it('is no rule where a number is none that it may be', function (string $rule): void {
    expect(ruleOf($rule, '20260601T080000'))->toBeNull();
})->with([
    '', 'FREQ=SOMETIMES', 'COUNT=3', 'FREQ=DAILY;BYHOUR=99', 'FREQ=MONTHLY;BYDAY=XX', 'FREQ=MONTHLY;BYMONTHDAY=0', 'FREQ=DAILY;INTERVAL=0',
    'FREQ=YEARLY;BYWEEKNO=60', 'FREQ=DAILY;UNTIL=yesterday', 'FREQ=DAILY;COUNT=-1', 'FREQ=DAILY;INTERVAL=99999999999999999999',
]);

it('says in words how something repeats', function (string $rule, string $words): void {
    $of = ruleOf($rule, '20260601T080000');
    assert($of !== null);
    expect(RuleWords::of($of))->toBe($words);
})->with([
    ['FREQ=WEEKLY;BYDAY=TU', 'every week on Tuesday, without an end'],
    ['FREQ=MONTHLY;INTERVAL=2;BYDAY=-1FR;COUNT=5', 'every 2 months on the last Friday, 5 times'],
    ['FREQ=YEARLY;BYMONTH=3;BYMONTHDAY=-1;UNTIL=20300101', 'every year on day the last in March, until 2030-01-01'],
]);

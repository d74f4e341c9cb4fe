<?php

declare(strict_types=1);

// bin/bench items [--messages=200000] [--appointments=20000]: so many messages in one set of mailboxes: messages a second to find them in
// it (beside Python's package "email" reading the headers of the same files), to look through their words; then searches by fields and by
// words, and opening one, each many times. The same of appointments, beside Python's package "icalendar". Starts an instance of its own
// (home var/bench).

use App\Kinds\Items\Catalog\ItemCatalog;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Catalog\ItemWords;
use App\Kinds\Items\Catalog\NearbyAppointments;
use App\Models\BackupSet;
use App\Models\Workload;
use App\Sets\Points;
use Carbon\CarbonImmutable;
use Illuminate\Contracts\Console\Kernel;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Mail\ItemQuery;
use Kaiseki\StandIns\SorrelSoundMail;
use Symfony\Component\Process\Process;
use Tests\Support\BenchTimes;
use Tests\Support\CalendarSamples;

require __DIR__.'/../../vendor/autoload.php';

[$wanted, $appointments] = [200_000, 20_000];
foreach (array_slice($argv, 2) as $option) {
    if (preg_match('/^--messages=(\d+)$/', $option, $m) === 1) {
        $wanted = (int) $m[1];
    } elseif (preg_match('/^--appointments=(\d+)$/', $option, $m) === 1) {
        $appointments = (int) $m[1];
    }
}
$root = dirname(__DIR__, 2);
$work = BenchTimes::begin('items');

// Offices like the demo's, each from a seed of its own, until there are enough.
$count = 0;
for ($office = 1; $count < $wanted; $office++) {
    mkdir("$work/mail/office-$office", 0755, true);
    (new SorrelSoundMail("$work/mail/office-$office", $office))->begin(new DateTimeImmutable('2026-10-19'));
    $count += (int) exec("find $work/mail/office-$office -type f | wc -l");
}
$line = fn (string $what, string $value) => printf("%-58s %s\n", $what, $value);
$rate = fn (int $of, float $seconds): string => sprintf('%s a second (%.1f s)', number_format($of / $seconds), $seconds);
$line('messages, in '.($office - 1).' offices', number_format($count).', '.exec("du -sh --apparent-size $work/mail | cut -f1"));

$app = require "$root/bootstrap/app.php";
$app->make(Kernel::class)->bootstrap();
[$seconds, $memory] = BenchTimes::timed(PHP_BINARY, "$root/bin/kaiseki", 'protect', 'bench-mail', "--mail=$work/mail", '--level=full');
$line('a set of them is made, and found through', $rate($count, $seconds).sprintf(', %.0f MiB', $memory));
$workload = Workload::query()->where('name', 'bench-mail')->firstOrFail();
ItemCatalog::forget($workload);
$began = microtime(true);
[$found, $unread] = ItemCatalog::bringUpToDate($workload);
$seconds = microtime(true) - $began;
$line('found again in the archive, without words', $rate($count, $seconds).", $found different, $unread not read");
$line('  memory', sprintf('%.0f MB', memory_get_peak_usage() / 1e6));
// At once: else who works in the background has done it before.
$began = microtime(true);
ItemWords::bringUpToDate($workload);
$line('words of bodies and attachments', $rate($found, microtime(true) - $began));
$python = <<<'PY'
    import sys, os, email, email.policy
    n = 0
    for at, _, names in os.walk(sys.argv[1]):
        for name in names:
            with open(os.path.join(at, name), 'rb') as f:
                m = email.message_from_bytes(f.read())
                n += 1 if (m['subject'], m['from'], m['to'], m['message-id']) else 0
    PY;
$began = microtime(true);
(new Process(['/usr/bin/python3', '-c', $python, "$work/mail"]))->setTimeout(null)->mustRun();
$line('  Python takes the same files apart, from the disk', $rate($count, microtime(true) - $began));

$point = BackupSet::query()->where('workload_id', $workload->id)->firstOrFail();
$ask = function (string $what, Closure $do, int $times = 40) use ($line): void {
    $took = [];
    for ($turn = 0; $turn < $times; $turn++) {
        $began = hrtime(true);
        $do($turn);
        $took[] = (hrtime(true) - $began) / 1e6;
    }
    sort($took);
    $line($what, sprintf('p50 %.0f ms, p95 %.0f ms', $took[intdiv($times, 2)], $took[(int) floor($times * 0.95) - 1]));
};
$queries = [
    'from:yard', 'subject:"dry dock"', 'from:greta subject:tide attachments>0', 'to:purser before:2026-06-01', 'subject:fuel',
    'id:x@y.example', 'mailbox:office-3/purser folder:sent', 'winch', '"winch of slip"', 'roster crane', 'mooring tide',
    'subject:invoice -crane', 'harbour', 'is:unread', 'is:flagged',
];
foreach ($queries as $query) {
    $asked = ItemQuery::parse($query);
    $hits = count(ItemFinder::find($workload, $asked, $point, 100_000));
    $ask("$query ($hits)", fn () => ItemFinder::find($workload, $asked, $point, 100));
}
$ids = array_map(intval(...), array_column(DB::select('SELECT id FROM items ORDER BY RAND(7) LIMIT 40'), 'id'));
$ask('opening one', fn (int $turn) => (new ItemReader(new Points($workload)))->one($ids[$turn]) ?? exit(fwrite(STDERR, "none\n")));

// Appointments: a file each, as a server keeps them.
$samples = new CalendarSamples(7);
for ($number = 0; $number < $appointments; $number++) {
    $folder = "$work/dav/collection-root/p".intdiv($number, 500).'@x/work';
    is_dir($folder) || mkdir($folder, 0755, true);
    file_put_contents("$folder/a$number.ics", $samples->appointment());
}
[$seconds, $memory] = BenchTimes::timed(PHP_BINARY, "$root/bin/kaiseki", 'protect', 'bench-dav', "--mail=$work/dav", '--level=full');
$line('a set of appointments is made, and found through', $rate($appointments, $seconds).sprintf(', %.0f MiB', $memory));
$workload = Workload::query()->where('name', 'bench-dav')->firstOrFail();
ItemCatalog::forget($workload);
$began = microtime(true);
[$found, $unread] = ItemCatalog::bringUpToDate($workload);
$line('found again in the archive, with their times', $rate($appointments, microtime(true) - $began).
    ", $found different, $unread not read");
$python = <<<'PY'
    import sys, os, icalendar
    n = 0
    for at, _, names in os.walk(sys.argv[1]):
        for name in names:
            with open(os.path.join(at, name), 'rb') as f:
                for e in icalendar.Calendar.from_ical(f.read()).walk('VEVENT'):
                    n += 1 if (e.get('SUMMARY'), e.decoded('DTSTART'), e.get('RRULE')) else 0
    PY;
$began = microtime(true);
(new Process(['/usr/bin/python3', '-c', $python, "$work/dav"]))->setTimeout(null)->mustRun();
$line('  Python takes the same files apart, from the disk', $rate($appointments, microtime(true) - $began));
ItemWords::bringUpToDate($workload);
$point = BackupSet::query()->where('workload_id', $workload->id)->firstOrFail();
foreach (['on:2026-11-17', 'subject:berth on:2026-05-05', 'place:slip from:ada', 'kind:appointment after:2026-12-01',
    'drawings'] as $query) {
    $asked = ItemQuery::parse($query, 'Europe/Oslo');
    $hits = count(ItemFinder::find($workload, $asked, $point, 100_000));
    $ask("$query ($hits)", fn () => ItemFinder::find($workload, $asked, $point, 100));
}
$day = new CarbonImmutable('2026-05-04', 'Europe/Oslo');
$ask('a week of one calendar', fn (int $turn) => NearbyAppointments::of($workload, $point, "p$turn@x", 'Calendars/work', $day,
    $day->addWeek(), ''), 20);

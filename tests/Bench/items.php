<?php

declare(strict_types=1);

// bin/bench items [--messages=200000]: so many messages in one set of mailboxes: messages a second to find them in it (beside Python's
// package "email" reading the headers of the same files), to look through their words; then searches by fields and by words, and opening
// one, each many times. Starts an instance of its own (home var/bench).

use App\Kinds\Items\Catalog\ItemCatalog;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Catalog\ItemWords;
use App\Models\BackupSet;
use App\Models\Workload;
use App\Sets\Points;
use Illuminate\Contracts\Console\Kernel;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Mail\ItemQuery;
use Kaiseki\StandIns\SorrelSoundMail;
use Symfony\Component\Process\Process;
use Tests\Support\BenchTimes;

require __DIR__.'/../../vendor/autoload.php';

$wanted = 200_000;
foreach (array_slice($argv, 2) as $option) {
    if (preg_match('/^--messages=(\d+)$/', $option, $m) === 1) {
        $wanted = (int) $m[1];
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
$began = microtime(true);
ItemWords::bringUpToDate($workload);
$line('words of bodies and attachments', $rate($found, microtime(true) - $began));

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
    'subject:invoice -crane', 'harbour',
];
foreach ($queries as $query) {
    $asked = ItemQuery::parse($query);
    $hits = count(ItemFinder::find($workload, $asked, $point, 100_000));
    $ask("$query ($hits)", fn () => ItemFinder::find($workload, $asked, $point, 100));
}
$ids = array_map(intval(...), array_column(DB::select('SELECT id FROM items ORDER BY RAND(7) LIMIT 40'), 'id'));
$ask('opening one', fn (int $turn) => (new ItemReader(new Points($workload)))->one($ids[$turn]) ?? exit(fwrite(STDERR, "none\n")));

<?php

declare(strict_types=1);

// bin/bench page: the worksheet of a workload with 100, 1,000 and 5,000 sets, as the server answers it, over two weeks and over
// all of the history; then the pages of an estate of 500 workloads with 200 sets each, 2,000 open requests and 100 runs at work
// and a mail service of 5,000 mailboxes, 20 folders each, that people bring back their own of (--only=estate for that alone). A loop
// of plain PHP is timed beside it, since the machine may be slow at the moment.
// Starts an instance of its own (home var/bench).

use App\Care\KeptStanding;
use App\Kinds\Items\Catalog\MailboxNames;
use App\Kinds\Items\Own\OwnRule;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\History;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Contracts\Console\Kernel;
use Illuminate\Support\Facades\DB;
use Tests\Support\BenchTimes;

require __DIR__.'/../../vendor/autoload.php';

$root = dirname(__DIR__, 2);
BenchTimes::begin('page');
$home = (string) getenv('KAISEKI_HOME');
$port = (int) getenv('KAISEKI_PORT');
$artisan = PHP_BINARY.' '.escapeshellarg("$root/artisan");
exec("KAISEKI_USER_PASSWORD=tide-table-9 $artisan kaiseki:user bench@sorrelsound.example --role=operator");
$app = require "$root/bootstrap/app.php";
$app->make(Kernel::class)->bootstrap();

/** An hourly workload: fulls each week, differentials each day; every third set has a second copy. The number of a request for it. */
function fill(int $count, string $home): int
{
    $workload = Workload::query()->create(['name' => "hourly-$count", 'kind' => 'files']);
    $history = History::query()->create(['workload_id' => $workload->id, 'name' => '1']);
    $stores = [];
    foreach (['near', 'far'] as $name) {
        @mkdir("$home/stores/$name/$count", 0755, true);
        $stores[] = Store::query()->firstOrCreate(
            ['name' => $name],
            ['site' => $name === 'near' ? 'boathouse' : 'pier-nine', 'root' => "$home/stores/$name"],
        );
    }
    $start = time() - $count * 3600;
    $full = $previous = null;
    DB::transaction(function () use ($count, $workload, $history, $stores, $start, &$full, &$previous): void {
        for ($i = 0; $i < $count; $i++) {
            $level = $i % 168 === 0 ? 'full' : ($i % 24 === 0 ? 'diff' : 'incr');
            $at = $start + $i * 3600;
            $id = BackupSet::query()->insertGetId([
                'workload_id' => $workload->id,
                'history_id' => $history->id,
                'name' => "hourly.$level.$i",
                'level' => $level,
                'instant' => $at * 1_000_000,
                'captured_at' => gmdate('Y-m-d H:i:s', $at),
                'base_id' => $level === 'full' ? null : ($level === 'diff' ? $full : $previous),
                'bytes' => 3,
                'cataloged' => 'whole',
                'tree_files' => 100,
            ]);
            [$full, $previous] = [$level === 'full' ? $id : $full, $id];
            foreach ($i % 3 === 0 ? $stores : [$stores[0]] as $store) {
                file_put_contents("{$store->root}/$count/s$i", 'abc');
                Copy::query()->insert([
                    'set_id' => $id,
                    'workload_id' => $workload->id,
                    'store_id' => $store->id,
                    'path' => "$count/s$i",
                    'bytes' => 3,
                    'state' => 'ok',
                ]);
            }
        }
    });

    return RecoveryRequest::query()->create([
        'workload_id' => $workload->id,
        'requester_id' => User::query()->value('id'),
        'summary' => 'x',
        'reason' => 'x',
        'wanted_at' => gmdate('Y-m-d H:i:s', time() - 86400),
        'due_at' => now()->addDay(),
    ])->id;
}

/** Milliseconds that one loop of plain PHP takes now. */
function plainLoop(): float
{
    $began = hrtime(true);
    for ($i = $sum = 0; $i < 3_000_000; $i++) {
        $sum += $i & 3;
    }

    return (hrtime(true) - $began) / 1e6;
}

/** @return list<float> milliseconds of each of so many answers, the shortest first */
function answers(CurlHandle $curl, string $url, int $times): array
{
    curl_setopt($curl, CURLOPT_URL, $url);
    $took = [];
    for ($i = 0; $i < $times; $i++) {
        $began = hrtime(true);
        $page = (string) curl_exec($curl);
        $took[] = (hrtime(true) - $began) / 1e6;
    }
    curl_getinfo($curl, CURLINFO_HTTP_CODE) === 200 || exit(fwrite(STDERR, "$url was not answered: ".substr($page, 0, 300)."\n"));
    sort($took);

    return $took;
}

/**
 * Rows of several tables in bulk: so many workloads with so many sets, each with a file of its copy.
 *
 * @return array{int, int} a workload and a request in the middle of them
 */
function estate(string $home, int $workloads, int $sets, int $requests, int $runs): array
{
    $store = Store::query()->firstOrCreate(['name' => 'near'], ['site' => 'boathouse', 'root' => "$home/stores/near"]);
    $person = (int) User::query()->value('id');
    $now = gmdate('Y-m-d H:i:s');
    $start = time() - $sets * 3600;
    $ids = [];
    for ($w = 0; $w < $workloads; $w++) {
        $ids[] = $workload = Workload::query()->create(['name' => sprintf('estate-%03d', $w), 'kind' => 'files', 'rpo_s' => 93_600])->id;
        $history = History::query()->create(['workload_id' => $workload, 'name' => '1'])->id;
        @mkdir("$home/stores/near/e$workload", 0755, true);
        $rows = $copies = [];
        $first = (int) DB::table('sets')->max('id') + 1;
        for ($i = 0; $i < $sets; $i++) {
            $level = $i % 168 === 0 ? 'full' : ($i % 24 === 0 ? 'diff' : 'incr');
            $at = $start + $i * 3600;
            $rows[] = [
                'id' => $first + $i, 'workload_id' => $workload, 'history_id' => $history, 'name' => "estate.$level.$i", 'level' => $level,
                'instant' => $at * 1_000_000, 'captured_at' => gmdate('Y-m-d H:i:s', $at),
                'base_id' => $level === 'full' ? null : $first + ($level === 'diff' ? $i - $i % 168 : $i - 1),
                'bytes' => 3, 'cataloged' => 'whole', 'tree_files' => 100,
            ];
            file_put_contents("$home/stores/near/e$workload/s$i", 'abc');
            $copies[] = [
                'set_id' => $first + $i, 'workload_id' => $workload, 'store_id' => $store->id, 'path' => "e$workload/s$i", 'bytes' => 3,
                'state' => 'ok',
            ];
        }
        DB::table('sets')->insert($rows);
        DB::table('copies')->insert($copies);
    }
    $rows = [];
    for ($i = 0; $i < $requests; $i++) {
        $rows[] = [
            'workload_id' => $ids[$i % $workloads], 'requester_id' => $person, 'summary' => "Request $i of many", 'reason' => 'x',
            'state' => 'open', 'demands' => '', 'wanted_at' => gmdate('Y-m-d H:i:s', time() - 86_400),
            'due_at' => gmdate('Y-m-d H:i:s', time() + 3600 + $i), 'created_at' => $now, 'updated_at' => $now,
        ];
    }
    DB::table('requests')->insert($rows);
    $open = DB::table('requests')->where('state', 'open')->orderByDesc('id')->limit($requests)->get(['id', 'workload_id']);
    foreach ($open->take($runs) as $request) {
        Run::query()->create([
            'request_id' => $request->id, 'workload_id' => $request->workload_id, 'state' => 'running',
            'files_total' => 1000, 'files_done' => 300,
            'plan' => ['sentence' => 'Put back 1,000 files.', 'target' => '/nowhere'], 'worker' => App\Runs\WorkerProcess::own(),
            'set_id' => DB::table('sets')->where('workload_id', $request->workload_id)->value('id'),
        ]);
    }

    return [$ids[intdiv($workloads, 2)], (int) $open[intdiv($requests, 2)]->id];
}

/** A workload of 5,000 mailboxes with 20 folders each, that people may bring back what is their own of. */
function mailboxes(): void
{
    $workload = Workload::query()->create(['name' => 'post', 'kind' => 'items']);
    for ($i = 0; $i < 5_000; $i++) {
        $name = "crew/person-$i@sorrelsound.example";
        DB::table('item_folders')->insert(array_map(
            fn (int $k): array => [
                'path_id' => (1 << 40) + 20 * $i + $k, 'workload_id' => $workload->id, 'mailbox' => $name, 'folder' => "Voyage $k",
            ],
            range(1, 20),
        ));
        MailboxNames::add($workload->id, [$name]);
    }
    OwnRule::settle($workload, 10, 10, null);
}

$curl = curl_init();
$jar = tempnam(sys_get_temp_dir(), 'bench');
curl_setopt_array($curl, [
    CURLOPT_COOKIEFILE => $jar,
    CURLOPT_COOKIEJAR => $jar,
    CURLOPT_RETURNTRANSFER => true,
    CURLOPT_URL => "http://127.0.0.1:$port/sign-in",
]);
preg_match('/name="_token" value="([^"]+)"/', (string) curl_exec($curl), $m);
curl_setopt_array($curl, [
    CURLOPT_POSTFIELDS => http_build_query(['_token' => $m[1] ?? '', 'email' => 'bench@sorrelsound.example', 'password' => 'tide-table-9']),
]);
curl_exec($curl);
curl_setopt_array($curl, [CURLOPT_HTTPGET => true]);
printf("%8s %12s %9s %9s %9s %10s\n", 'sets', 'shown', 'least', 'median', 'bytes', 'PHP loop');
foreach (in_array('--only=estate', $argv, true) ? [] : [100, 1_000, 5_000] as $count) {
    $request = fill($count, $home);
    foreach (['two weeks' => 14, 'all' => max(14, intdiv($count, 20))] as $words => $days) {
        $url = "http://127.0.0.1:$port/requests/$request?show=when&days=$days";
        $times = answers($curl, $url, 25);
        printf(
            "%8d %12s %6.0f ms %6.0f ms %9d %7.0f ms\n",
            $count,
            $words,
            $times[0],
            $times[12],
            curl_getinfo($curl, CURLINFO_SIZE_DOWNLOAD),
            plainLoop(),
        );
    }
}

$began = hrtime(true);
[$workload, $request] = estate($home, 500, 200, 2_000, 100);
printf("\n500 workloads of 200 sets, 2,000 open requests, 100 runs at work (made in %.0f s)\n", (hrtime(true) - $began) / 1e9);
$began = hrtime(true);
foreach (Workload::query()->where('name', 'like', 'estate-%')->get() as $one) {
    KeptStanding::reckon($one);
}
printf("looked at by jobs: %.1f ms a workload\n", (hrtime(true) - $began) / 500e6);
printf("%16s %9s %9s %9s %10s\n", 'page', 'median', 'p95', 'bytes', 'PHP loop');
mailboxes();
$pages = [
    'Desk' => '/', 'Desk, page 20' => '/?page=20', 'Desk, filtered' => '/?q=17', 'Estate' => '/estate', 'Stores' => '/stores',
    'a workload' => "/workloads/$workload", 'its care' => "/workloads/$workload/care", 'a worksheet' => "/requests/$request?show=when",
];
foreach ($pages as $words => $page) {
    $times = answers($curl, "http://127.0.0.1:$port$page", 60);
    printf(
        "%16s %6.0f ms %6.0f ms %9d %7.0f ms\n", $words, $times[30], $times[56], curl_getinfo($curl, CURLINFO_SIZE_DOWNLOAD), plainLoop(),
    );
}

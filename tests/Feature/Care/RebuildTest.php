<?php

declare(strict_types=1);

use App\Models\BackupSet;
use App\Models\Store;
use App\Sets\SetFiles;
use App\Trees\Catalog\CatalogReader;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Instant;
use Kaiseki\StandIns\FileHost;
use Symfony\Component\Process\Process;
use Tests\Support\RandomTree;
use Tests\Support\TreeListing;

/* The catalog is lost: it comes back from the media, from an export, and the work can be done without it. */

/** @return array<string, array<string, string>> set => listing of the tree at it */
function nightsOnTwoStores(Tests\TestCase $test, int $seed, int $nights = 6): array
{
    $scratch = $test->scratch();
    foreach (['near', 'far'] as $store) {
        $test->kaiseki('store-add', $store, $scratch->folder($store), '--site='.($store === 'near' ? 'boathouse' : 'pier-nine'));
    }
    $scratch->folder('host');
    $tree = new RandomTree("{$scratch->path}/host/files", $seed);
    $host = new FileHost("{$scratch->path}/host");
    $trees = [];
    for ($night = 0; $night < $nights; $night++) {
        $tree->change($night === 0 ? 0 : 12);
        file_put_contents("{$scratch->path}/host/files/long-$night.txt", str_repeat("night $night of the ferry office; ", 60));
        link("{$scratch->path}/host/files/long-$night.txt", "{$scratch->path}/host/files/second name $night");
        $host->setClock(Instant::of((new DateTimeImmutable('2026-10-01T02:00:00Z'))->modify("+$night days")));
        $set = $test
            ->kaiseki(
                'protect',
                'tree',
                "--source={$host->root()}",
                '--store=near',
                '--level='.['full', 'incr', 'diff', 'incr', 'incr', 'full'][$night % 6],
                '--json',
            )
            ->json()['set'];
        $test->kaiseki('copy', 'tree', $set, '--to=far');
        // which names are one file is lost where a folder of theirs was renamed, as with tar
        $trees[$set] = TreeListing::of($host->root(), links: false);
    }

    return $trees;
}

/** Everything that the catalog knows, without the numbers that it gives out. @return array<string, mixed> */
function wholeCatalog(): array
{
    $rows = fn (string $sql): array => array_map(
        fn (stdClass $row): array => array_map(
            fn (mixed $value): mixed => is_string($value) && ! mb_check_encoding($value, 'UTF-8') ? bin2hex($value) : $value,
            (array) $row,
        ),
        DB::select($sql),
    );
    $places = [];
    foreach (BackupSet::query()->orderBy('instant')->get() as $set) {
        $places[$set->name] = hash_file('sha256', SetFiles::placeIndex($set->id));
    }

    return [
        'sets' => $rows(
            'SELECT s.name, s.level, s.instant, s.captured_at, s.captured_from, b.name AS base, s.base_recorded, s.consistency, '.
                's.cataloged, s.checkpoint, s.bytes, s.entries, s.tree_files, s.tree_bytes, s.seekable, s.digest, s.beside, s.measures, '.
                    'h.name AS history FROM sets s JOIN histories h ON h.id = s.history_id LEFT JOIN sets b ON b.id = s.base_id ORDER BY '.
                        's.instant',
        ),
        'versions' => $rows(
            'SELECT HEX(p.name) AS name, v.first, v.until, v.kind, v.size, v.mtime, HEX(v.digest) AS digest, HEX(v.attributes) AS '.
                'attributes, HEX(q.name) AS folder FROM versions v JOIN paths p ON p.id = v.path_id LEFT JOIN paths q ON q.id = '.
                    'v.parent_id ORDER BY p.name, q.name, v.first, v.path_id',
        ),
        'totals' => $rows(
            'SELECT HEX(p.name) AS name, t.instant, t.kind, t.files, t.bytes FROM folder_totals t JOIN paths p ON p.id = t.path_id ORDER '.
                'BY p.name, t.instant, t.kind, t.files, t.bytes',
        ),
        'places' => $places,
    ];
}

function loseCatalog(bool $storesToo = false): void
{
    DB::table('trail')->delete();
    DB::table('runs')->delete();
    foreach (
        [
            'signs',
            'doubts',
            'copies',
            'sets',
            'histories',
            'workloads',
            'versions',
            'paths',
            'folder_totals',
            'checks',
            ...$storesToo ? ['stores', 'lanes'] : [],
        ] as $table
    ) {
        DB::table($table)->delete();
    }
    foreach (glob(getenv('KAISEKI_HOME').'/index/*') ?: [] as $file) {
        unlink($file);
    }
}

it('arrives at the same catalog from the manifests, and from the archives alone', function (int $seed): void {
    $trees = nightsOnTwoStores($this, $seed);
    $before = wholeCatalog();
    loseCatalog();
    $answer = $this->kaiseki('catalog', 'rebuild', '--store=near', '--json');
    expect($answer->code)
        ->toBe(0)
        ->and(array_count_values(array_column($answer->json()['sets'], 'from')))
        ->toBe(['manifest' => 6])
        ->and($answer->json()['problems'])
        ->toBe([]);
    expect(wholeCatalog())->toEqual($before);
    loseCatalog();
    expect(
        array_count_values(
            array_column($this->kaiseki('catalog', 'rebuild', '--store=far', '--read-archives', '--json')->json()['sets'], 'from'),
        ),
    )->toBe(['archive' => 6]);
    expect(wholeCatalog())->toEqual($before);
    // The other store's copies are found to be of the same sets, and everything can be restored.
    expect(array_count_values(array_column($this->kaiseki('catalog', 'rebuild', '--store=near', '--json')->json()['sets'], 'from')))
        ->toBe(['known' => 6])
        ->and(DB::table('copies')->count())
        ->toBe(12)
        ->and($this->kaiseki('check', 'tree')->code)
        ->toBe(0);
    foreach ($trees as $set => $listing) {
        $to = $this->scratch()->folder("back-$set");
        $this->kaiseki('restore', 'tree', "--point=$set", '--path=/', "--to=$to");
        expect(TreeListing::of($to, links: false))->toBe($listing);
    }
})->with([1, 2, 3, 4]);

it('does not believe a manifest that is not what was written, or does not fit its archive', function (): void {
    nightsOnTwoStores($this, 9);
    $before = wholeCatalog();
    $sets = array_column($before['sets'], 'name');
    $file = fn (int $i, string $ending): string => "{$this->scratch()->path}/near/tree/{$sets[$i]}$ending";
    file_put_contents(
        $file(0, '.manifest.jsonl'),
        str_replace('"size":', '"size":1', (string) file_get_contents($file(0, '.manifest.jsonl'))),
    );
    unlink($file(1, '.manifest.jsonl'));
    file_put_contents($file(2, '.set.json'), str_replace('"bytes": ', '"bytes": 1', (string) file_get_contents($file(2, '.set.json'))));
    unlink($file(3, '.set.json'));
    loseCatalog();
    $answer = $this->kaiseki('catalog', 'rebuild', '--store=near', '--json')->json();
    expect(array_column($answer['sets'], 'from'))
        ->toBe(['archive', 'archive', 'archive', 'archive', 'manifest', 'manifest'])
        ->and(count($answer['problems']))
        ->toBe(3);
    $now = wholeCatalog();
    expect($now['versions'])
        ->toEqual($before['versions'])
        ->and($now['totals'])
        ->toEqual($before['totals'])
        ->and($now['places'])
        ->toEqual($before['places']);
    expect(implode(' ', BackupSet::query()->where('name', $sets[0])->sole()->remarks))->toContain('The manifest beside it says otherwise');
});

it('writes the catalog to plain files and takes it from there', function (): void {
    $trees = nightsOnTwoStores($this, 5);
    $this->kaiseki('keep', 'tree', 'last=9');
    $before = wholeCatalog();
    $folder = $this->scratch()->path.'/export';
    expect($this->kaiseki('catalog', 'export', $folder)->code)->toBe(0)->and($this->kaiseki('catalog', 'export', $folder)->code)->toBe(2);
    // Ordinary tools read it.
    $this->scratch()->run('sh', '-c', "cd $folder && b2sum --length=256 --quiet --check catalog.b2sum");
    expect($this->scratch()->run('sh', '-c', "zcat $folder/sets.jsonl.gz | tail -n +2 | wc -l"))->toBe("6\n");
    expect($this->kaiseki('catalog', 'import', $folder)->code)->toBe(2); // there is one already
    loseCatalog(true);
    expect($this->kaiseki('catalog', 'import', $folder)->code)
        ->toBe(0)
        ->and(wholeCatalog())
        ->toEqual($before)
        ->and($this->kaiseki('check', 'tree')->code)
        ->toBe(0)
        ->and($this->kaiseki('keep', 'tree', '--json')->json()['rules'])
        ->toHaveCount(1);
    $to = $this->scratch()->folder('back');
    $this->kaiseki('restore', 'tree', '--point='.array_key_last($trees), '--path=/', "--to=$to");
    expect(TreeListing::of($to, links: false))->toBe(end($trees));
    loseCatalog(true);
    $bytes = (string) file_get_contents("$folder/versions.jsonl.gz");
    file_put_contents("$folder/versions.jsonl.gz", substr_replace($bytes, chr(ord($bytes[900]) ^ 4), 900, 1));
    expect($this->kaiseki('catalog', 'import', $folder)->code)
        ->toBe(2)
        ->and(DB::table('stores')->count())
        ->toBe(0);
});

it('leaves a night kit beside the sets that works when the desk is gone', function (): void {
    $trees = nightsOnTwoStores($this, 6);
    expect($this->kaiseki('catalog', 'night-kit', '--json')->json()['stores'])->toBe(['far', 'near']);
    $newest = end($trees);
    $moved = $this->scratch()->path.'/carried off';
    rename("{$this->scratch()->path}/near", $moved);
    $sh = function (string ...$command): Process {
        $process = new Process(['env', '-i', 'PATH=/usr/bin:/bin', 'sh', ...$command]);
        $process->run();

        return $process;
    };
    $to = $this->scratch()->folder('by hand');
    $process = $sh("$moved/night-kit/hand-sheet-tree.sh", $to);
    expect($process->getOutput())->toContain('All files are right.')->and($process->getExitCode())->toBe(0);
    expect(TreeListing::of($to, links: false))->toBe($newest);
    expect($sh("$moved/night-kit/hand-sheet-tree.sh", $to)->getExitCode())->toBe(2); // not empty now
    expect($sh("$moved/night-kit/check.sh"))->getExitCode()->toBe(0)->getOutput()->toContain('All is right.');
    // It finds what is wrong, and a damaged restore.
    $archive = "$moved/tree/".array_key_last($trees).'.tar.gz';
    $bytes = (string) file_get_contents($archive);
    file_put_contents($archive, substr_replace($bytes, chr(ord($bytes[200]) ^ 1), 200, 1));
    $process = $sh("$moved/night-kit/check.sh");
    expect($process->getExitCode())
        ->toBe(1)
        ->and($process->getOutput().$process->getErrorOutput())
        ->toContain(basename($archive));
    expect($sh("$moved/night-kit/hand-sheet-tree.sh", $this->scratch()->folder('again'))->getExitCode())->not->toBe(0);
    // The export in it brings the desk back.
    loseCatalog(true);
    expect($this->kaiseki('catalog', 'import', "$moved/night-kit/catalog")->code)
        ->toBe(0)
        ->and(BackupSet::query()->count())
        ->toBe(6)
        ->and(Store::query()->count())
        ->toBe(2);
    $reader = new CatalogReader;
    expect($reader->countChildren(BackupSet::query()->orderByDesc('instant')->firstOrFail(), ''))->toBe(
        count(array_filter(array_keys($newest), fn (string $path): bool => ! str_contains($path, '/'))),
    );
});

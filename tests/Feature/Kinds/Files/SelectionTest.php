<?php

declare(strict_types=1);

use App\Jobs\TakeFromBin;
use App\Kinds\Files\Order\ChangedPaths;
use App\Kinds\Files\Order\FilesSaid;
use App\Kinds\Files\Order\PastedPaths;
use App\Models\BackupSet;
use App\Models\Workload;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Catalog\CatalogSearch;
use App\Trees\Catalog\ChildOrder;
use App\Trees\Catalog\SearchQuery;
use Kaiseki\Core\Catalog\EntryPath;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\Desk;
use Tests\Support\RandomTree;

it('picks what vanished and what changed as comparing the trees one by one does', function (int $seed): void {
    $scratch = $this->scratch();
    $tree = new RandomTree($scratch->folder('src').'/tree', $seed + 70);
    $archives = $scratch->folder('archives');
    $states = [];
    foreach (range(0, 5) as $day) {
        if ($day > 0) {
            usleep(20_000);
            $tree->change(9);
        }
        $scratch->run(
            'tar',
            '-czf',
            sprintf('%s/tree.%s.202610%02dT020000Z.tar.gz', $archives, $day === 0 ? 'full' : 'incr', $day + 1),
            '--format=posix',
            "--listed-incremental=$scratch->path/snar",
            '-C',
            dirname($tree->root),
            'tree',
        );
    }
    $this->kaiseki('adopt', $archives, '--as=tree');
    $sets = BackupSet::query()->orderBy('instant')->get();
    $trees = $sets->map(fn (BackupSet $set): array => iterator_to_array((new CatalogReader)->entriesBelow($set, [''])))->all();
    foreach ([0, 2, 4] as $at) {
        $gone = array_map(strval(...), array_keys(array_diff_key($trees[$at], $trees[5])));
        expect(ChangedPaths::vanished($sets[$at], $sets[$at]->instant))->toBe(EntryPath::outermost($gone), "vanished since $at");
        // First so at a later set than this: the same version at no set before.
        foreach (range(0, $at) as $from) {
            $changed = [];
            foreach ($trees[$at] as $path => $packed) {
                if ($packed[0] !== 'd' && ($trees[$from][$path] ?? null) !== $packed) {
                    $changed[] = (string) $path;
                }
            }
            $found = ChangedPaths::changed($sets[$at], $sets[$from]->instant);
            // What changed and changed back is found too: it was other in between.
            expect(array_diff($changed, $found))->toBe([], "changed between $from and $at");
            expect(array_diff($found, array_keys($trees[$at])))->toBe([]);
        }
    }
})->with([1, 2, 3, 4]);

it('takes a pasted list apart, also with commas, drives and backslashes, and guesses what is not there', function (): void {
    $desk = new Desk(
        $this,
        fn ($a) => $a
            ->put('rosters/week-47.csv', 'x')
            ->put('notes, old.txt', 'x')
            ->put('handbooks/safety/chapter-04.txt', 'x')
            ->put('a b/c', 'x'),
        fn ($a) => $a->put('z', 'z'),
    );
    $pasted = new PastedPaths(
        "/tree/rosters/week-47.csv\r\n\n  tree/notes, old.txt \n/tree/a b/c, ".
            "/tree/rosters\nC:\\tree\\handbooks\\safety\\chapter-04.txt\n/tree/rosters/week-74.csv\n../../etc/passwd\n",
        $desk->set(0),
    );
    expect($pasted->there)->toBe([
        'tree/rosters/week-47.csv',
        'tree/notes, old.txt',
        'tree/a b/c',
        'tree/rosters',
        'tree/handbooks/safety/chapter-04.txt',
    ]);
    expect($pasted->absent['/tree/rosters/week-74.csv'])
        ->toBe('tree/rosters/week-47.csv')
        ->and($pasted->absent['../../etc/passwd'])
        ->toBeNull();
    $this->actingAs($desk->operator)
        ->post("{$desk->url}/select", ['do' => 'paste', 'list' => "/tree/rosters/week-47.csv\n/tree/rosters/week-4x.csv"])
        ->assertRedirect("{$desk->url}?show=what&by=list");
    $this->get("{$desk->url}?show=what&by=list")
        ->assertSee('week-4x.csv')
        ->assertSee('The nearest that is there');
    expect(FilesSaid::of($desk->request->refresh())->paths())->toBe(['tree/rosters/week-47.csv']);
    $this->post("{$desk->url}/select", ['do' => 'paste', 'list' => ''])->assertSessionHasErrors('list');
});

it('picks all that a search finds, or what is ticked', function (): void {
    $desk = new Desk(
        $this,
        function ($a): void {
            foreach (range(1, 9) as $i) {
                $a->put("logs/2026-0$i.csv", str_repeat('x', $i * 1000))->put("logs/2026-0$i.txt", 'x');
            }
        },
        fn ($a) => $a->put('z', 'z'),
    );
    $this->actingAs($desk->operator)
        ->post("{$desk->url}/select", ['do' => 'found', 'q' => '*.csv', 'size' => '>4k'])
        ->assertSessionHasNoErrors();
    expect(FilesSaid::of($desk->request->refresh())->paths())->toBe([
        'tree/logs/2026-05.csv',
        'tree/logs/2026-06.csv',
        'tree/logs/2026-07.csv',
        'tree/logs/2026-08.csv',
        'tree/logs/2026-09.csv',
    ]);
    $this->post("{$desk->url}/select", [
        'do' => 'ticked',
        'paths' => [rawurlencode('tree/logs/2026-01.txt'), rawurlencode('../x')],
    ])->assertSessionHasNoErrors();
    expect(FilesSaid::of($desk->request->refresh())->paths())
        ->toContain('tree/logs/2026-01.txt')
        ->toHaveCount(6);
    $this->post("{$desk->url}/select", ['do' => 'ticked'])->assertSessionHasErrors('do');
    $this->get("{$desk->url}?show=what&by=find&size=nonsense")->assertSee('is no size');
});

it('finds by size, time, owner and kind as find(1) does', function (): void {
    $tree = new RandomTree($this->scratch()->folder('src').'/tree', 91);
    $archives = $this->scratch()->folder('archives');
    foreach (array_slice(glob("{$tree->root}/*") ?: [], 0, 5) as $i => $path) {
        lchown($path, 1000 + ($i % 2));
    }
    $this->scratch()->run(
        'tar',
        '-czf',
        "$archives/tree.full.20261001T020000Z.tar.gz",
        '--format=posix',
        "--listed-incremental={$this->scratch()->path}/snar",
        '-C',
        dirname($tree->root),
        'tree',
    );
    $this->kaiseki('adopt', $archives, '--as=tree');
    $workload = Workload::query()->sole();
    $ours = function (SearchQuery $query) use ($workload): array {
        $paths = array_map(fn ($found): string => $found->path, (new CatalogSearch)->find($workload, $query, 10_000));
        sort($paths, SORT_STRING);

        return $paths;
    };
    $theirs = function (string ...$arguments) use ($tree): array {
        $process = new Process(['find', 'tree', ...$arguments, '-print0'], dirname($tree->root));
        $process->mustRun();
        $paths = array_values(array_filter(explode("\0", $process->getOutput()), fn (string $path): bool => $path !== ''));
        sort($paths, SORT_STRING);

        return $paths;
    };
    expect($ours(new SearchQuery(kind: Kaiseki\Core\Archive\EntryKind::Folder)))->toBe($theirs('-type', 'd'));
    expect($ours(new SearchQuery(kind: Kaiseki\Core\Archive\EntryKind::Symlink)))->toBe($theirs('-type', 'l'));
    expect($ours(new SearchQuery(sizeFrom: 1001)))->toBe($theirs('-type', 'f', '-size', '+1000c'));
    expect($ours(new SearchQuery(sizeTo: 999)))->toBe($theirs('-type', 'f', '-size', '-1000c'));
    expect($ours(new SearchQuery(owner: '1000')))->toBe($theirs('-uid', '1000'));
    expect($ours(new SearchQuery(owner: 'root', kind: Kaiseki\Core\Archive\EntryKind::File)))->toBe($theirs('-user', 'root', '-type', 'f'));
    expect($ours(new SearchQuery(changedFrom: 1_000_000_000 * 1_000_000_000, changedTo: 1_500_000_000 * 1_000_000_000)))->toBe(
        $theirs('-newermt', '@999999999.999999999', '-not', '-newermt', '@1500000000'),
    );
    expect($ours(new SearchQuery(name: '*2*', sizeFrom: 1)))->toBe($theirs('-name', '*2*', '-type', 'f', '-size', '+0c'));
});

it('sorts a folder by each column, folders first, and lets names be begun', function (): void {
    $random = new Randomizer(new Mt19937(3));
    $desk = new Desk(
        $this,
        function ($a) use ($random): void {
            foreach (range(1, 40) as $i) {
                $a->put($i % 4 === 0 ? "d$i/in" : "f$i", $random->getBytes($random->getInt(1, 5000)));
                touch("{$a->source}/".($i % 4 === 0 ? "d$i" : "f$i"), $random->getInt(1_000_000_000, 1_700_000_000));
            }
        },
        fn ($a) => $a->put('z', 'z'),
    );
    $reader = new CatalogReader;
    $set = $desk->set(0);
    foreach (ChildOrder::cases() as $order) {
        foreach ([false, true] as $down) {
            $pages = [];
            for ($offset = 0; ($page = $reader->children($set, 'tree', 7, $offset, $order, $down)) !== []; $offset += 7) {
                array_push($pages, ...$page);
            }
            expect($pages)->toHaveCount(40);
            $value = fn ($child) => match ($order) {
                ChildOrder::Name => $child->name,
                ChildOrder::Files => $child->isFolder() ? $child->files : $child->size(),
                ChildOrder::Size => $child->size(),
                ChildOrder::Changed => $child->version->mtime,
                default => $child->version->mode,
            };
            foreach (range(1, 39) as $i) {
                [$a, $b] = [$pages[$i - 1], $pages[$i]];
                expect($a->isFolder() || ! $b->isFolder())->toBeTrue();
                if ($a->isFolder() === $b->isFolder()) {
                    expect(($value($a) <=> $value($b)) * ($down ? -1 : 1))->toBeLessThanOrEqual(0, "{$order->value} $a->name $b->name");
                }
            }
        }
    }
    expect(array_map(fn ($child): string => $child->name, $reader->children($set, 'tree', 100, 0, ChildOrder::Name, false, 'F1')))->toBe([
        'f1',
        'f10',
        'f11',
        'f13',
        'f14',
        'f15',
        'f17',
        'f18',
        'f19',
    ]);
    expect($reader->countChildren($set, 'tree', 'f1'))->toBe(9)->and($reader->countChildren($set, 'tree', 'f%'))->toBe(0);
    $this->actingAs($desk->operator)
        ->get("{$desk->url}?show=what&folder=tree&sort=size&down=1&begins=d")
        ->assertOk()
        ->assertSee('aria-sort="descending"', false)
        ->assertDontSeeText('f13');
});

it('stays quick a thousand folders deep', function (): void {
    $deep = implode('/', array_fill(0, 1000, 'd'));
    $desk = new Desk(
        $this,
        function ($a): void {
            $a->put('top', 'x');
            // A path of one piece may not be that long: it is made step by step.
            $a->scratch->run(
                'sh',
                '-c',
                'cd "$1"; i=0; while [ $i -lt 1000 ]; do mkdir d; cd -P d; i=$((i+1)); done; echo deep > f',
                'sh',
                $a->source,
            );
        },
        fn ($a) => $a->put('z', 'z'),
    );
    $folder = "tree/$deep";
    $reader = new CatalogReader;
    expect(array_map(fn ($child): string => $child->name, $reader->children($desk->set(0), $folder)))->toBe(['f']);
    $this->actingAs($desk->operator)
        ->get("{$desk->url}?show=what&folder=".rawurlencode($folder))
        ->assertOk()
        ->assertSee('…');
    $restored = $this->kaiseki(
        'restore',
        'crew',
        '--point='.$desk->sets[0],
        "--path=/$folder/f",
        "--to={$this->scratch()->path}/out",
        '--json',
    );
    expect($restored->code)->toBe(0, $restored->text)->and($restored->json()['files'])->toBe(1);
});

it('looks into the bin of the host first, and gives back from it without touching anything', function (): void {
    $desk = new Desk($this, fn ($a) => $a->put('rosters/week-47.csv', 'as backed up'), fn ($a) => $a->put('z', 'z'));
    $desk->request->update(['lost' => '/tree/rosters/week-47.csv']);
    // As a file manager leaves it (Trash specification 1.0 of freedesktop.org).
    $this->scratch()->file('hosts/crew/files/.Trash-1000/files/week-47.csv', 'as deleted');
    $this->scratch()->file(
        'hosts/crew/files/.Trash-1000/info/week-47.csv.trashinfo',
        "[Trash Info]\nPath=tree/rosters/week-47.csv\nDeletionDate=2026-11-20T14:05:00\n",
    );
    $this->scratch()->file('hosts/crew/files/.Trash-1000/files/hurt', 'x');
    $this->scratch()->file(
        'hosts/crew/files/.Trash-1000/info/hurt.trashinfo',
        "[Trash Info]\nPath=../../../etc/hurt\nDeletionDate=2026-11-20T14:05:00\n",
    );
    $this->scratch()->file(
        'hosts/crew/files/.Trash-1000/info/gone.trashinfo',
        "[Trash Info]\nPath=gone\nDeletionDate=2026-11-20T14:05:00\n",
    );
    $this->actingAs($desk->operator)
        ->get("{$desk->url}?show=what")
        ->assertSee('lies in the bin of the host');
    $this->get("{$desk->url}?show=what&by=bin")
        ->assertSee('back to its place')
        ->assertDontSee('etc/hurt');
    (new TakeFromBin($desk->request->id, rawurlencode('.Trash-1000/files/week-47.csv'), $desk->operator->id))->handle();
    expect(file_get_contents("{$desk->live}/tree/rosters/week-47.csv"))
        ->toBe('as deleted')
        ->and(file_exists("{$desk->live}/.Trash-1000/info/week-47.csv.trashinfo"))
        ->toBeFalse();
    // What stands in the place stays.
    $this->scratch()->file('hosts/crew/files/.Trash-1000/files/again', 'older');
    $this->scratch()->file(
        'hosts/crew/files/.Trash-1000/info/again.trashinfo',
        "[Trash Info]\nPath=tree/rosters/week-47.csv\nDeletionDate=2026-11-20T14:05:00\n",
    );
    (new TakeFromBin($desk->request->id, rawurlencode('.Trash-1000/files/again'), $desk->operator->id))->handle();
    expect(file_get_contents("{$desk->live}/tree/rosters/week-47.csv"))
        ->toBe('as deleted')
        ->and(file_get_contents("{$desk->live}/.Trash-1000/files/again"))
        ->toBe('older');
    $this->get("{$desk->url}?show=what&by=bin")->assertSee('was left in the bin');
});

it('gives the order as a hand sheet that sh runs', function (): void {
    $desk = new Desk($this, fn ($a) => $a->put('rosters/week-47.csv', 'the good one'), fn ($a) => $a->put('z', 'z'));
    $this->actingAs($desk->operator)
        ->get("{$desk->url}/hand-sheet")
        ->assertStatus(409);
    $desk->into('own-place', ['tree/rosters']);
    $this->get("{$desk->url}?show=what")->assertSee('Hand sheet');
    $script = $this->get("{$desk->url}/hand-sheet")
        ->assertOk()
        ->streamedContent();
    $out = $this->scratch()->folder('by-hand');
    $this->scratch()->run('sh', $this->scratch()->file('sheet.sh', $script), $out);
    expect(file_get_contents("$out/tree/rosters/week-47.csv"))->toBe('the good one');
    $this->actingAs($desk->requester)
        ->get("{$desk->url}/hand-sheet")
        ->assertForbidden();
});

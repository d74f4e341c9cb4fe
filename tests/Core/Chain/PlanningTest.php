<?php

declare(strict_types=1);

use Kaiseki\Core\Chain\BackupSet;
use Kaiseki\Core\Chain\Chain;
use Kaiseki\Core\Chain\ChainGraph;
use Kaiseki\Core\Chain\ChainSheet;
use Kaiseki\Core\Chain\CopyChooser;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\FoundPoint;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Chain\PassedOver;
use Kaiseki\Core\Chain\PointFinder;
use Kaiseki\Core\Chain\Reading;
use Kaiseki\Core\Chain\ReadingOrder;
use Kaiseki\Core\Chain\Route;
use Kaiseki\Core\Chain\SetCopy;
use Kaiseki\Core\Chain\StoreRate;
use Kaiseki\Core\Instant;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Core\Chain\BruteForce;

/** @return array<mixed> */
function randomSheet(Randomizer $random): array
{
    $pick = fn (array $of): mixed => $of[$random->getInt(0, count($of) - 1)];
    $sites = ['boathouse', 'pier-nine', 'hill'];
    $stores = [];
    for ($i = 0; $i < $random->getInt(1, 4); $i++) {
        $stores[] = ['name' => "s$i", 'site' => $pick($sites), 'read_mb_s' => $pick([10, 40, 120]), 'setup_s' => $pick([0, 0, 5, 90])];
    }
    $lanes = [];
    foreach ($sites as $from) {
        if ($random->getInt(0, 1) === 1) {
            $lanes[] = ['from' => $from, 'to' => 'boathouse', 'mb_s' => $pick([1, 12, 500])];
        }
    }
    $sets = [];
    $numeric = $random->getInt(0, 3) === 0;
    for ($i = 0; $i < $random->getInt(1, 7); $i++) {
        $copies = [];
        foreach ($stores as $store) {
            if ($random->getInt(0, 2) > 0) {
                $copies[] =
                    ['store' => $store['name'], 'state' => $pick(['ok', 'ok', 'checked', 'offline', 'missing', 'damaged'])] +
                    ($random->getInt(0, 3) === 0
                        ? ['medium' => $pick(['HV1', 'HV2', ['HV1', 'HV3'], ['HV2', 'HV1']]), 'position' => $random->getInt(0, 999)]
                        : []);
            }
        }
        $sets[] = [
            'id' => "S$i",
            'level' => $numeric
                ? $random->getInt(0, 9)
                : ($i === 0
                    ? $pick(['full', 'full', 'incr'])
                    : $pick(['full', 'diff', 'incr', 'incr', 'incr', 'log', 'log', 'snapshot'])),
            'captured_at' => gmdate('Y-m-d\TH:i:s\Z', 1_790_000_000 + $i * 86400),
            'base' => $i > 0 && $random->getInt(0, 5) === 0 ? 'S'.$random->getInt(0, $i - 1) : null,
            'bytes' => $random->getInt(0, 9_000_000_000),
            'consistent' => $random->getInt(0, 9) > 0,
            'in_doubt' => $random->getInt(0, 9) === 0,
            'history' => $random->getInt(0, 9) === 0 ? 'other' : 'one',
            'copies' => $copies,
        ];
    }

    return ['stores' => $stores, 'lanes' => $lanes, 'target_site' => 'boathouse', 'sets' => $random->shuffleArray($sets)];
}

it('finds the point and the cheapest reading of hundreds of random chains, as trying everything does', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    for ($round = 0; $round < 600; $round++) {
        $raw = randomSheet($random);
        $sheet = ChainSheet::parse((string) json_encode($raw));
        $wanted = 1_790_000_000 + $random->getInt(-1, 8) * 43200;
        $checked = $random->getInt(0, 4) === 0;
        $site = $random->getInt(0, 5) === 0 ? 'boathouse' : null;
        // Of a selection some sets hold a little, and some nothing.
        $needed =
            $random->getInt(0, 2) > 0
                ? null
                : array_map(
                    fn (): int => $random->getInt(0, 50_000_000),
                    array_flip(array_filter(array_column($raw['sets'], 'id'), fn (): bool => $random->getInt(0, 2) > 0)),
                );
        $expected = (new BruteForce($raw))->answer($wanted, $checked, $site, $needed);
        $found = PointFinder::bySets($sheet->graph, $sheet->route()->sites())->find(
            Instant::parse(gmdate('Y-m-d\TH:i:s\Z', $wanted)),
            new Demands(true, true, $checked, $site),
        );
        $about = json_encode($raw);
        expect([$found->set?->id, $found->before?->id, $found->after?->id])->toBe(
            [$expected['point'], $expected['before'], $expected['after']],
            (string) $about,
        );
        expect(array_map(fn (PassedOver $over): string => $over->set->id, $found->passedOver))->toBe($expected['passed'], (string) $about);
        if ($found->set !== null) {
            $chain = $sheet->graph->chainOf($found->set->id);
            assert($chain instanceof Chain);
            $pieces = [];
            foreach ($chain->sets as $set) {
                if ($needed === null || isset($needed[$set->id])) {
                    $pieces[] = [$set, $needed[$set->id] ?? $set->bytes];
                }
            }
            $list = CopyChooser::choose($pieces, $sheet->route());
            expect($list)->not->toBeNull();
            expect($list->exact)->toBeTrue();
            expect($list->totalSeconds)->toEqualWithDelta($expected['total'], 1e-6 * max(1.0, (float) $expected['total']), (string) $about);
        }
    }
})->with([11, 12, 13, 14]);

/** @return list<Reading> */
function randomReadings(Randomizer $random): array
{
    $readings = $spanned = [];
    for ($i = 0; $i < $random->getInt(1, 14); $i++) {
        $media = $random->getInt(0, 3) === 0 ? [] : ['HV'.($first = $random->getInt(1, 4))];
        // One set at most spans from one cartridge to the next: that which was being written when it was full.
        if ($media !== [] && ! isset($spanned[$first]) && $random->getInt(0, 5) === 0) {
            $media[] = 'HV'.($first + 1);
            $spanned[$first] = true;
        }
        $readings[] = new Reading(
            new BackupSet("S$i", Level::of('full'), Instant::ofMicroseconds($i), 1, []),
            new SetCopy($media === [] ? 'disk' : 'tape', CopyState::Ok, $media, $random->getInt(0, 999)),
            1,
            1.0,
        );
    }

    return $readings;
}

it('reads each cartridge in one go and in winding order, and otherwise in the order of applying', function (): void {
    $random = new Randomizer(new Mt19937(21));
    for ($round = 0; $round < 500; $round++) {
        $readings = randomReadings($random);
        $ordered = ReadingOrder::of($readings);
        $names = fn (array $of): array => array_map(fn (Reading $reading): string => $reading->set->id, $of);
        expect($names($ordered))->toEqualCanonicalizing($names($readings));
        $about = json_encode(
            array_map(fn (Reading $reading): array => [$reading->set->id, $reading->copy->media, $reading->copy->position], $ordered),
        );
        // What is loaded, one after the other: what spans two cartridges ends with the second of them in the drive.
        $loads = [];
        foreach ($ordered as $reading) {
            foreach ($reading->copy->media as $medium) {
                if ($medium !== end($loads)) {
                    $loads[] = $medium;
                }
            }
        }
        expect($loads)->toBe(array_values(array_unique($loads)), (string) $about);
        $last = [];
        foreach ($ordered as $reading) {
            if (count($reading->copy->media) === 1) {
                expect($reading->copy->position)->toBeGreaterThanOrEqual($last[$reading->copy->media[0]] ?? 0, (string) $about);
                $last[$reading->copy->media[0]] = $reading->copy->position;
            }
        }
        $disks = array_values(array_filter($ordered, fn (Reading $reading): bool => $reading->copy->media === []));
        expect($names($disks))->toBe(
            $names(array_values(array_filter($readings, fn (Reading $reading): bool => $reading->copy->media === []))),
        );
    }
});

it('sends a person to the shelf only where that is quicker than the slow lane, and once for all', function (): void {
    $set = fn (string $id, int $megabytes): array => [
        new BackupSet($id, Level::of('full'), Instant::ofMicroseconds(0), $megabytes * 1_000_000, [
            new SetCopy('far'),
            new SetCopy('tape', CopyState::Offline, ["HV$id"]),
        ]),
        $megabytes * 1_000_000,
    ];
    $stores = ['far' => new StoreRate('pier', 100), 'tape' => new StoreRate('hill', 100, 10)];
    $plan = fn (array $pieces, float $shelf): array => array_map(
        fn (Reading $reading): string => $reading->copy->store,
        CopyChooser::choose($pieces, new Route($stores, ['pier' => ['here' => 1.0]], 'here', $shelf))->readings ?? [],
    );
    // 60 s over the lane; 10.6 s from tape, and the way to the shelf.
    expect($plan([$set('1', 60)], 0.0))
        ->toBe(['tape'])
        ->and($plan([$set('1', 60)], 900.0))
        ->toBe(['far'])
        ->and($plan([$set('1', 1200)], 900.0))
        ->toBe(['tape']);
    // Neither alone is worth the way, both together are.
    expect($plan([$set('1', 600)], 900.0))
        ->toBe(['far'])
        ->and($plan([$set('1', 600), $set('2', 600)], 900.0))
        ->toBe(['tape', 'tape']);
    $list = CopyChooser::choose([$set('1', 1200)], new Route($stores, ['pier' => ['here' => 1.0]], 'here', 900.0));
    expect($list?->setupSeconds)->toBe(10.0)->and($list?->totalSeconds)->toEqualWithDelta(22.0, 1e-9);
});

it('plans hardly worse over many media than it would over any eight of them', function (): void {
    $random = new Randomizer(new Mt19937(9));
    for ($round = 0; $round < 30; $round++) {
        $route = new Route(['tape' => new StoreRate('hill', 100, 60), 'disk' => new StoreRate('pier', 8)], [], 'boathouse');
        $pieces = [];
        for ($i = 0; $i < 40; $i++) {
            $copies = [
                new SetCopy('disk'),
                new SetCopy('tape', CopyState::Ok, ['HV'.$random->getInt(0, 11)]),
                new SetCopy('tape', CopyState::Ok, ['HV'.$random->getInt(0, 11)]),
            ];
            $pieces[] = [new BackupSet("S$i", Level::of('full'), Instant::ofMicroseconds($i), 1, $copies), $random->getInt(1, 400_000_000)];
        }
        $list = CopyChooser::choose($pieces, $route);
        expect($list?->exact)->toBeFalse();
        foreach (range(0, 11) as $from) {
            $eight = array_map(fn (int $n): string => 'tape/HV'.($from + $n) % 12, range(8, 11));
            expect($list?->totalSeconds)->toBeLessThanOrEqual(
                (CopyChooser::choose($pieces, $route, new CopyRule([], $eight))->totalSeconds ?? INF) * 1.02,
            );
        }
        $media = [];
        $sum = 0.0;
        foreach ($list->readings ?? [] as $reading) {
            $media += array_flip($reading->copy->media);
            $sum += $reading->seconds;
        }
        expect($list?->totalSeconds)->toEqualWithDelta($sum + 60 * count($media), 1e-6);
    }
});

it(
    'says that a plan over more than eight media that matter is not proven the best, and it is never worse than one copy each',
    function (): void {
        $random = new Randomizer(new Mt19937(5));
        $stores = [
            ['name' => 'tape', 'site' => 'hill', 'read_mb_s' => 100, 'setup_s' => 90],
            ['name' => 'disk', 'site' => 'boathouse', 'read_mb_s' => 10, 'setup_s' => 0],
        ];
        $sets = [];
        for ($i = 0; $i < 12; $i++) {
            $sets[] = [
                'id' => "S$i",
                'level' => $i === 0 ? 'full' : 'incr',
                'captured_at' => gmdate('Y-m-d\TH:i:s\Z', 1_790_000_000 + $i * 3600),
                'bytes' => $random->getInt(1, 3_000_000_000),
                'copies' => [['store' => 'tape', 'medium' => "HV$i", 'state' => 'ok'], ['store' => 'disk', 'state' => 'ok']],
            ];
        }
        $sheet = ChainSheet::parse((string) json_encode(['stores' => $stores, 'sets' => $sets]));
        $chain = $sheet->graph->chainOf('S11');
        assert($chain instanceof Chain);
        $list = CopyChooser::choose(array_map(fn ($set): array => [$set, $set->bytes], $chain->sets), $sheet->route());
        // Each cartridge holds one set here, so the best is known: for each set the cheaper of its two copies.
        $best = array_sum(array_map(fn (array $set): float => min(90 + $set['bytes'] / 100e6, $set['bytes'] / 10e6), $sets));
        expect($list->exact)->toBeFalse();
        expect($list->totalSeconds)->toEqualWithDelta($best, 1e-6);
    },
);

// Source of the levels: dump(8) of 4.4BSD and Linux, "a modified Tower of Hanoi algorithm", with the sequence 0 3 2 5 4 7 6 9 8 9 9.
it('restores the dump-level sequence of dump(8) from the sets that the manual needs', function (): void {
    $levels = [0, 3, 2, 5, 4, 7, 6, 9, 8, 9, 9];
    // By hand, from the rule "since the last dump of a lower level".
    $needed = [
        [0],
        [0, 1],
        [0, 2],
        [0, 2, 3],
        [0, 2, 4],
        [0, 2, 4, 5],
        [0, 2, 4, 6],
        [0, 2, 4, 6, 7],
        [0, 2, 4, 6, 8],
        [0, 2, 4, 6, 8, 9],
        [0, 2, 4, 6, 8, 10],
    ];
    $sets = array_map(
        fn (int $level, int $day): array => [
            'id' => "d$day",
            'level' => $level,
            'captured_at' => gmdate('Y-m-d\TH:i:s\Z', 1_790_000_000 + $day * 86400),
            'bytes' => 1,
            'copies' => [['store' => 'b', 'state' => 'ok']],
        ],
        $levels,
        array_keys($levels),
    );
    $sheet = ChainSheet::parse((string) json_encode(['stores' => [['name' => 'b', 'site' => 'b', 'read_mb_s' => 1]], 'sets' => $sets]));
    foreach ($needed as $day => $chain) {
        $got = $sheet->graph->chainOf("d$day");
        assert($got instanceof Chain);
        expect(array_map(fn ($set): string => $set->id, $got->sets))->toBe(array_map(fn (int $n): string => "d$n", $chain));
        expect($got->baseAssumed)->toBe($day > 0);
    }
});

// From memory: the weekly scheme of the older dump(8) pages, a level 0 monthly, 3 on Sundays, then 2 5 4 7 6 9 8 in each week.
it('restores any day of the second week of a level 0 with weeks of 3 2 5 4 7 6 9', function (): void {
    $levels = [0, 3, 2, 5, 4, 7, 6, 9, 3, 2, 5, 4, 7, 6, 9];
    $sets = array_map(
        fn (int $level, int $day): array => [
            'id' => "d$day",
            'level' => $level,
            'captured_at' => gmdate('Y-m-d\TH:i:s\Z', 1_790_000_000 + $day * 86400),
            'bytes' => 1,
            'copies' => [['store' => 'b', 'state' => 'ok']],
        ],
        $levels,
        array_keys($levels),
    );
    $sheet = ChainSheet::parse((string) json_encode(['stores' => [['name' => 'b', 'site' => 'b', 'read_mb_s' => 1]], 'sets' => $sets]));
    $chain = $sheet->graph->chainOf('d14');
    assert($chain instanceof Chain);
    expect(array_map(fn ($set): string => $set->id, $chain->sets))->toBe(['d0', 'd9', 'd11', 'd13', 'd14']);
});

it('takes any instant within a log as a point', function (): void {
    $sheet = ChainSheet::parse('{"stores":[{"name":"b","site":"b","read_mb_s":1}],"sets":[
        {"id":"F","level":"full","captured_at":"2026-10-04T02:00:00Z","bytes":5,"copies":[{"store":"b"}]},
        {"id":"L1","level":"log","captured_at":"2026-10-04T03:00:00Z","bytes":5,"copies":[{"store":"b"}]},
        {"id":"L2","level":"log","captured_at":"2026-10-04T04:00:00Z","bytes":5,"copies":[{"store":"b"}]}]}');
    $found = PointFinder::bySets($sheet->graph, [])->find(Instant::parse('2026-10-04T03:25:00Z'), new Demands);
    expect($found->set?->id)->toBe('L2')->and($found->at?->iso())->toBe('2026-10-04T03:25:00Z');
    $chain = $sheet->graph->chainOf('L2');
    expect($chain instanceof Chain ? array_map(fn ($set): string => $set->id, $chain->sets) : [])->toBe(['F', 'L1', 'L2']);
});

/** @param  list<array{string, string, string, 3?: ?string, 4?: string}>  $sets  id, level, captured_at, base, history */
function graphOf(array $sets): ChainGraph
{
    return new ChainGraph(
        array_map(
            fn (array $set): BackupSet => new BackupSet(
                $set[0],
                Level::of($set[1]),
                Instant::parse($set[2]),
                1,
                [new SetCopy('b')],
                $set[3] ?? null,
                $set[4] ?? '',
            ),
            $sets,
        ),
    );
}

it('names what is wrong with a chain', function (array $sets, string $because): void {
    $found = PointFinder::bySets(graphOf($sets), [])->find(Instant::parse('2027-01-01T00:00:00Z'), new Demands);
    expect(implode('; ', array_map(fn (PassedOver $over): string => $over->because, $found->passedOver)))->toContain($because);
})->with([
    'no full' => [[['I', 'incr', '2026-10-04T02:00:00Z']], 'no set that I could rest on is here'],
    'no full for a differential' => [
        [['I', 'incr', '2026-10-04T02:00:00Z'], ['D', 'diff', '2026-10-05T02:00:00Z']],
        'no full before D is here',
    ],
    'base gone' => [[['I', 'incr', '2026-10-04T02:00:00Z', 'X']], 'the base X is not here'],
    'a circle' => [
        [['A', 'incr', '2026-10-04T02:00:00Z', 'B'], ['B', 'incr', '2026-10-04T03:00:00Z', 'A']],
        'is later than the set itself',
    ],
    'a circle of one' => [[['A', 'incr', '2026-10-04T02:00:00Z', 'A']], 'go round in a circle'],
    'a base of the future' => [
        [['A', 'incr', '2026-10-05T02:00:00Z', 'B'], ['B', 'full', '2027-10-06T02:00:00Z']],
        'later than the set itself',
    ],
    'another history' => [
        [['F', 'full', '2026-10-04T02:00:00Z', null, 'old'], ['I', 'incr', '2026-10-05T02:00:00Z', 'F', 'new']],
        'another history',
    ],
    'only a snapshot below' => [
        [['S', 'snapshot', '2026-10-04T02:00:00Z'], ['I', 'incr', '2026-10-05T02:00:00Z']],
        'no set that I could rest on is here',
    ],
    'a snapshot as base' => [
        [['S', 'snapshot', '2026-10-04T02:00:00Z'], ['I', 'incr', '2026-10-05T02:00:00Z', 'S']],
        'a snapshot, on which nothing can rest',
    ],
]);

it('takes a snapshot as a point of its own, beside a chain that goes on without it', function (): void {
    $graph = graphOf([
        ['F', 'full', '2026-10-04T02:00:00Z'],
        ['S', 'snapshot', '2026-10-04T12:00:00Z'],
        ['I', 'incr', '2026-10-05T02:00:00Z'],
    ]);
    expect($graph->baseOf('I'))->toBe('F')->and($graph->baseOf('S'))->toBeNull();
    $found = PointFinder::bySets($graph, [])->find(Instant::parse('2026-10-04T13:00:00Z'), new Demands);
    expect($found->set?->id)->toBe('S')->and($found->before?->id)->toBe('F')->and($found->after?->id)->toBe('I');
});

it('passes over what is older than was demanded, and offers it as the nearest before', function (): void {
    $graph = graphOf([['F', 'full', '2026-10-04T02:00:00Z'], ['G', 'full', '2026-10-09T02:00:00Z']]);
    $find = fn (string $within): FoundPoint => PointFinder::bySets($graph, [])->find(
        Instant::parse('2026-10-05T14:00:00Z'),
        Demands::parse("consistent,within=$within"),
    );
    expect($find('36h')->set?->id)->toBe('F');
    $none = $find('35h');
    expect($none->set)->toBeNull()->and($none->before?->id)->toBe('F')->and($none->after?->id)->toBe('G');
    expect($none->passedOver[0]->because)->toBe('it is more than 35h older than the wanted moment');
});

it('reads demands and spans as they are written, and writes them so', function (string $list): void {
    expect(Demands::parse($list)->list())->toBe($list);
})->with(['none', 'consistent,clear', 'checked,site=pier-nine,within=36h', 'clear,within=7d', 'within=90s', 'within=5m']);

it('refuses a sheet that is not well formed, and says where', function (string $json, string $says): void {
    expect(fn () => ChainSheet::parse($json))->toThrow(InvalidArgumentException::class, $says);
})->with([
    ['[]', 'no list of "sets"'],
    ['[1]', 'not a JSON object'],
    ['{"sets":[', 'not JSON'],
    [
        '{"sets":[{"id":"A","level":"incr","base":"B","captured_at":"2026-10-04T02:00:00Z"},'.
            '{"id":"B","level":"incr","base":"A","captured_at":"2026-10-04T03:00:00Z"}]}',
        'Sets[0] "A" rests on bases that go round in a circle: A on B on A',
    ],
    [
        '{"sets":[{"id":"A","level":"incr","base":"X","captured_at":"2026-10-04T02:00:00Z"}]}',
        'Sets[0] "A" has the base "X", which the sheet does not list',
    ],
    [
        '{"sets":[{"id":"A","level":"full","captured_at":"2026-10-04T02:00:00Z"},'.
            '{"id":"B","level":"full","captured_at":"2026-10-04T04:00:00+02:00"}]}',
        'Sets[1] "B" is captured at the same instant as "A"',
    ],
    [
        '{"sets":[{"id":"A","level":"full","captured_at":"2026-10-04T02:00:00Z"},'.
            '{"id":"A","level":"full","captured_at":"2026-10-05T02:00:00Z"}]}',
        'stands twice',
    ],
    ['{"sets":[{"id":"A","level":"full","bytes":-1,"captured_at":"2026-10-04T02:00:00Z"}]}', 'Sets[0] "A" needs a bytes of 0 or more'],
    ['{"sets":[{"id":"A","level":"full","bytes":"many","captured_at":"2026-10-04T02:00:00Z"}]}', 'needs a bytes'],
    ['{"sets":[{"id":"A","level":"full","consistent":"yes","captured_at":"2026-10-04T02:00:00Z"}]}', 'neither true nor false'],
    [
        '{"stores":[{"name":"x"}],'.
            '"sets":[{"id":"A","level":"full","captured_at":"2026-10-04T02:00:00Z","copies":[{"store":"x","state":"lost"}]}]}',
        'Sets[0] "A", copies[0] has the state "lost"',
    ],
    ['{"stores":[{"name":"x"},{"name":"x"}],"sets":[]}', 'Stores[1] lists the store "x" again'],
    ['{"lanes":[{"from":"a","to":"b","mb_s":-3}],"sets":[]}', 'Lanes[0] needs a mb_s above 0'],
    ['{"sets":[{"id":"A"}]}', 'level'],
    ['{"sets":[{"id":"A","level":"weekly","captured_at":"2026-10-04T02:00:00Z"}]}', 'not a level'],
    ['{"sets":[{"id":"A","level":"full","captured_at":"2026-10-04T02:00:00"}]}', 'no offset'],
    ['{"sets":[{"id":"A","level":"full","captured_at":"2026-10-04T02:00:00Z","copies":[{"store":"x"}]}]}', 'does not list'],
    ['{"stores":[{"name":"x","read_mb_s":0}],"sets":[]}', 'read_mb_s above 0'],
]);

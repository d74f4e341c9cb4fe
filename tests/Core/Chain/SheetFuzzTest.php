<?php

declare(strict_types=1);

use Kaiseki\Core\Chain\ChainSheet;
use Kaiseki\Core\Chain\CopyChooser;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\PointFinder;
use Kaiseki\Core\Instant;
use Random\Engine\Mt19937;
use Random\Randomizer;

/* Sheets come from outside: whatever stands in one, it is planned for or refused with a sentence, and nothing else happens. */

it('plans for a sheet or refuses it in words, whatever was done to it', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $odd = [
        null,
        true,
        false,
        -1,
        0,
        1.5,
        1e300,
        '',
        'x',
        "\u{202e}rtl",
        [],
        ['a' => 1],
        [[]],
        '2026-13-40T99:00:00Z',
        'full',
        PHP_INT_MAX,
        -1e18,
    ];
    $spoil = function (mixed &$value, int $deep) use (&$spoil, $random, $odd): void {
        if (! is_array($value) || $value === [] || $deep > 5 || $random->getInt(0, 9) === 0) {
            $value = $odd[$random->getInt(0, count($odd) - 1)];

            return;
        }
        $key = array_keys($value)[$random->getInt(0, count($value) - 1)];
        if ($random->getInt(0, 7) === 0) {
            unset($value[$key]);
        } else {
            $spoil($value[$key], $deep + 1);
        }
    };
    $refused = 0;
    for ($round = 0; $round < 400; $round++) {
        $sheet = [
            'stores' => [['name' => 's', 'site' => 'b', 'read_mb_s' => 10, 'setup_s' => 3], ['name' => 't', 'read_mb_s' => 5]],
            'lanes' => [['from' => 's', 'to' => 'b', 'mb_s' => 2]],
            'target_site' => 'b',
            'sets' => [
                [
                    'id' => 'F',
                    'level' => 'full',
                    'captured_at' => '2026-10-01T02:00:00Z',
                    'bytes' => 100,
                    'copies' => [['store' => 's', 'medium' => ['A', 'B'], 'position' => 3, 'state' => 'offline'], ['store' => 't']],
                ],
                [
                    'id' => 'I',
                    'level' => 'incr',
                    'base' => 'F',
                    'captured_at' => '2026-10-02T02:00:00Z',
                    'bytes' => 10,
                    'history' => '',
                    'copies' => [['store' => 's', 'medium' => 'A', 'state' => 'checked']],
                ],
                [
                    'id' => 'L',
                    'level' => 'log',
                    'captured_at' => '2026-10-02T03:00:00Z',
                    'consistent' => true,
                    'in_doubt' => false,
                    'copies' => [['store' => 't']],
                ],
            ],
        ];
        foreach (range(1, $random->getInt(1, 3)) as $_) {
            $spoil($sheet, 0);
        }
        try {
            $parsed = ChainSheet::parse((string) json_encode($sheet, JSON_PARTIAL_OUTPUT_ON_ERROR));
        } catch (InvalidArgumentException $wrong) {
            expect($wrong->getMessage())->toEndWith('.')->and(strlen($wrong->getMessage()))->toBeGreaterThan(15);
            $refused++;

            continue;
        }
        $rule = new CopyRule($random->getInt(0, 1) === 0 ? [] : ['s'], $random->getInt(0, 3) === 0 ? ['t'] : []);
        $found = PointFinder::bySets($parsed->graph, $parsed->route()->sites(), $rule)->find(
            Instant::parse('2026-10-02T02:30:00Z'),
            new Demands,
        );
        foreach ($parsed->graph->sets() as $set) {
            CopyChooser::choose([[$set, $set->bytes]], $parsed->route(), $rule);
            $parsed->graph->chainOf($set->id);
        }
        expect($found->set === null || ! $found->set->capturedAt->isAfter(Instant::parse('2026-10-02T03:00:00Z')))->toBeTrue();
    }
    expect($refused)->toBeGreaterThan(100)->toBeLessThan(400);
})->with([1, 2, 3]);

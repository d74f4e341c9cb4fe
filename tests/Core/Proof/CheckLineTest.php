<?php

declare(strict_types=1);

use Kaiseki\Core\Proof\CheckLine;

it('is kept as outcomes and proofs have it, and is the same again', function (): void {
    $lines = [
        CheckLine::of('every block was to be had', true, 'none is missing'),
        CheckLine::of('the machine is configured as was ordered', false, 'memory 512 MiB'),
        new CheckLine('it answers, as itself', CheckLine::NOT_SEEN, 'it has no agent'),
        new CheckLine('room', CheckLine::NOTE, 'the server tells no limit'),
    ];
    $kept = CheckLine::kept($lines);
    expect($kept[0])->toBe(['check' => 'every block was to be had', 'result' => 'passed', 'detail' => 'none is missing'])
        ->and(CheckLine::all(json_decode((string) json_encode($kept), true)))->toEqual($lines)
        ->and(CheckLine::all(null))->toBe([])
        ->and(array_column(CheckLine::wrong($lines), 'check'))->toBe(['the machine is configured as was ordered'])
        ->and($lines[1]->told())->toBe('failed: the machine is configured as was ordered: memory 512 MiB')
        ->and($lines[1]->words())->toBe('the machine is configured as was ordered: memory 512 MiB')
        ->and(array_map(fn (CheckLine $line): bool => $line->isNote(), $lines))->toBe([false, false, false, true]);
});

it('tells the first ten things that are wrong, in UTF-8', function (): void {
    $wrong = array_map(fn (int $n): string => "row $n \xff", range(1, 12));
    $line = CheckLine::unless($wrong, 'each row', 'all are right');
    expect($line->isFailed())->toBeTrue()
        ->and(substr_count($line->detail, 'row '))->toBe(10)
        ->and(mb_check_encoding($line->detail, 'UTF-8'))->toBeTrue()
        ->and(CheckLine::unless([], 'each row', 'all are right'))->toEqual(CheckLine::of('each row', true, 'all are right'));
});

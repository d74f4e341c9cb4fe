<?php

declare(strict_types=1);

use Illuminate\Foundation\Testing\RefreshDatabase;
use Symfony\Component\Process\Process;
use Tests\BrowserTestCase;
use Tests\TestCase;

uses(TestCase::class, RefreshDatabase::class)->in('Feature', 'Reference');
uses(BrowserTestCase::class)->in('Browser', 'Instance');

/** Waits until a process that was started says something. (Process::waitUntil() may miss what was said while it started.) */
function saysSoon(Process $process, string $words): void
{
    while (! str_contains($process->getOutput(), $words)) {
        $process->isRunning() || throw new RuntimeException("It ended without saying \"$words\": {$process->getErrorOutput()}");
        usleep(5_000);
    }
}

/**
 * Seeds, or other cases of one kind, of which the first is tried each time and the others with `bin/test --deep`.
 *
 * @template T
 *
 * @param  non-empty-list<T>  $cases
 * @return non-empty-list<T>
 */
function deeper(array $cases, int $ordinary = 1): array
{
    return getenv('KAISEKI_DEEP') === '1' ? $cases : array_slice($cases, 0, $ordinary);
}

<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Kinds\HasHelpers;
use App\Kinds\Kinds;
use Illuminate\Console\Command;
use Symfony\Component\Process\Process;

/** Begins what kinds need to run beside the application, and begins it again when it has ended. */
final class KeepHelpers extends Command
{
    private const LOOKS = 200_000;

    /** Seconds before one that ended at once is begun again. */
    private const AGAIN = 2;

    protected $signature = 'kaiseki:helpers';

    protected $description = 'Keeps the processes running that kinds of workload need';

    protected $hidden = true;

    /** @var array<string, array{Process, float}> name => the process, and when it was begun */
    private array $running = [];

    private bool $ends = false;

    public function handle(): int
    {
        $this->trap([SIGTERM, SIGINT], function (): void {
            $this->ends = true;
        });
        while (! $this->ends) {
            clearstatcache();
            $this->look(self::wanted());
            usleep(self::LOOKS);
        }
        foreach ($this->running as [$process]) {
            $process->stop(10);
        }

        return 0;
    }

    /** @return array<string, non-empty-list<string>> */
    private static function wanted(): array
    {
        $wanted = [];
        foreach (Kinds::all() as $kind) {
            $wanted += $kind instanceof HasHelpers ? $kind->helpers() : [];
        }

        return $wanted;
    }

    /** @param  array<string, non-empty-list<string>>  $wanted */
    private function look(array $wanted): void
    {
        foreach ($this->running as $name => [$process, $begun]) {
            if ($process->isRunning()) {
                continue;
            }
            $this->output->write($process->getErrorOutput());
            if (! isset($wanted[$name]) || microtime(true) - $begun > self::AGAIN) {
                unset($this->running[$name]);
            }
        }
        foreach (array_diff_key($wanted, $this->running) as $name => $arguments) {
            $process = new Process(['setpriv', '--pdeathsig', 'TERM', '--', PHP_BINARY, base_path('artisan'), ...$arguments]);
            $process->setTimeout(null);
            $process->start();
            $this->running[$name] = [$process, microtime(true)];
        }
    }
}

<?php

declare(strict_types=1);

namespace Tests\Support;

use Symfony\Component\Process\Process;

/** What keeps the helpers of kinds running, as bin/start begins it. */
final class HelpersAtWork
{
    private Process $process;

    public function __construct()
    {
        $this->begin();
    }

    public function begin(): void
    {
        $artisan = dirname(__DIR__, 2).'/artisan';
        $this->process = new Process(['setpriv', '--pdeathsig', 'TERM', '--', PHP_BINARY, $artisan, 'kaiseki:helpers']);
        $this->process->setTimeout(null);
        $this->process->start();
    }

    public function end(int $signal = SIGTERM): void
    {
        $this->process->stop(20, $signal);
    }

    public function said(): string
    {
        return $this->process->getErrorOutput().$this->process->getOutput();
    }
}

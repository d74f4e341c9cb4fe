<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use Kaiseki\Core\Catalog\Shown;
use Symfony\Component\Process\ExecutableFinder;
use Symfony\Component\Process\Process;

/** What a tool of a file system did to a copy of one on this machine, with its memory and time bounded: the bytes are from outside. */
final readonly class VolumeTool
{
    /** Seconds of one. */
    private const PATIENCE = 3600;

    private const CONFINED = ['prlimit', '--as=4294967296', '--cpu=3600', '--core=0', '--'];

    private const ENVIRONMENT = ['PATH' => '/usr/sbin:/usr/bin:/sbin:/bin', 'LC_ALL' => 'C'];

    private function __construct(
        public int $exit,
        /** All of it, without the name of the copy. */
        public string $output,
    ) {
    }

    public static function isThere(string $program): bool
    {
        return (new ExecutableFinder)->find($program, null, ['/usr/sbin', '/sbin']) !== null;
    }

    /** @param  non-empty-list<string>  $command  without the file, which is its last argument */
    public static function run(array $command, string $file, string $input = ''): self
    {
        $process = new Process([...self::CONFINED, ...$command, $file], '/', self::ENVIRONMENT, $input, self::PATIENCE);
        $process->run();

        return new self((int) $process->getExitCode(), str_replace($file, '', $process->getOutput()));
    }

    /** The first of what it said, for people. */
    public function said(): string
    {
        $lines = array_filter(array_map(trim(...), explode("\n", $this->output)));

        return mb_strimwidth(implode(' ', array_map(Shown::name(...), array_slice($lines, 0, 6))), 0, 400, '...');
    }
}

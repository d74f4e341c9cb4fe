<?php

declare(strict_types=1);

namespace Tests\Support;

use RuntimeException;
use Symfony\Component\Process\Process;

/** A folder for one test, and ordinary tools to work in it. */
final class Scratch
{
    public readonly string $path;

    /** @param  string|null  $in  null: in memory where that is possible, as runs wait for the disk, and that is not what tests are for */
    public function __construct(?string $in = null)
    {
        $in ??= is_writable('/dev/shm') && disk_free_space('/dev/shm') > 1 << 30 ? '/dev/shm' : sys_get_temp_dir();
        $this->path = "$in/kaiseki-".bin2hex(random_bytes(6));
        mkdir($this->path);
    }

    public function remove(): void
    {
        (new Process(['rm', '-rf', $this->path]))->run();
    }

    /** A place in it, where nothing need stand. */
    public function at(string $name): string
    {
        return "{$this->path}/$name";
    }

    public function folder(string $name): string
    {
        $path = "{$this->path}/$name";
        if (! is_dir($path)) {
            mkdir($path, 0755, true);
        }

        return $path;
    }

    public function file(string $name, string $content): string
    {
        $path = "{$this->path}/$name";
        if (! is_dir(dirname($path))) {
            mkdir(dirname($path), 0755, true);
        }
        file_put_contents($path, $content);

        return $path;
    }

    /** Runs a program; its output. A failure is a failure of the test. */
    public function run(string ...$command): string
    {
        $process = new Process($command, $this->path, ['TZ' => 'UTC', 'LC_ALL' => 'C'], null, 300);
        $process->run();
        if (! $process->isSuccessful()) {
            throw new RuntimeException(implode(' ', $command).': '.$process->getErrorOutput());
        }

        return $process->getOutput();
    }
}

<?php

declare(strict_types=1);

namespace Tests\Support;

use RuntimeException;
use Symfony\Component\Process\Process;

/** Something on loopback that alarms are sent to: a process of its own that writes down what it got. */
final class Sink
{
    private function __construct(private readonly Process $process, public readonly int $port, private readonly string $file)
    {
    }

    public static function smtp(Scratch $scratch): self
    {
        $file = "{$scratch->path}/mails";
        $process = new Process([PHP_BINARY, __DIR__.'/Sinks/smtp.php', "$file.port", $file]);
        $process->setTimeout(null)->start();
        Instance::waitUntil(fn (): bool => is_file("$file.port"));

        return new self($process, (int) file_get_contents("$file.port"), $file);
    }

    public static function http(Scratch $scratch): self
    {
        $file = "{$scratch->path}/hooks";
        $process = new Process([PHP_BINARY, '-S', '127.0.0.1:0', __DIR__.'/Sinks/http.php'], null, ['SINK_FILE' => $file]);
        $process->setTimeout(null)->start();
        $port = 0;
        $listens = function () use ($process, &$port): bool {
            preg_match('~\(http://127\.0\.0\.1:(\d+)\) started~', $process->getErrorOutput(), $said);
            $port = (int) ($said[1] ?? 0);

            return $port > 0;
        };
        Instance::waitUntil($listens) || throw new RuntimeException("The sink did not start: {$process->getErrorOutput()}");

        return new self($process, $port, $file);
    }

    /** @param  int  $status  with which it answers from now on */
    public function answer(int $status): void
    {
        file_put_contents("{$this->file}.status", (string) $status);
    }

    /** @return list<array<string, mixed>> what it got, the first first */
    public function got(): array
    {
        $lines = array_filter(explode("\n", (string) @file_get_contents($this->file)), fn (string $line): bool => $line !== '');

        return array_values(array_map(fn (string $line): array => json_decode($line, true, 512, JSON_THROW_ON_ERROR), $lines));
    }

    public function end(): void
    {
        $this->process->stop(0);
    }
}

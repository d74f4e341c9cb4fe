<?php

declare(strict_types=1);

namespace App\Hosts;

use Closure;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\Shown;

/** A command on a host, before or after a set is made of it or something is put back to it; what it said is kept. */
final readonly class HostCommand
{
    public const KEPT_OUTPUT = 4000;

    private function __construct(
        public string $when,
        /** @var list<string> */
        public array $command,
        /** Null if it did not end by itself. */
        public ?int $exit,
        public string $output,
        public float $seconds,
    ) {
    }

    /**
     * @param  list<string>  $command  argument list; never a shell's
     * @param  int  $limit  seconds after which it is ended
     * @param  string  $input  what it reads; '' for nothing
     */
    public static function run(string $when, array $command, string $folder, int $limit, string $input = ''): self
    {
        return self::carriedOut($when, $command, function () use ($command, $folder, $limit, $input): array {
            [$exit, $output] = Walls::stand()
                ? CommandList::run($command, $folder, $limit, $input)
                : CommandAnswering::carryOut($command, $folder, $limit, $input);

            return [$exit === '' ? null : (int) $exit, $output];
        });
    }

    /**
     * One that is carried out elsewhere, likewise.
     *
     * @param  list<string>  $command
     * @param  Closure(): array{int|null, string}  $carryOut  gives its exit status, null if it did not end by itself, and what it said
     */
    public static function carriedOut(string $when, array $command, Closure $carryOut): self
    {
        $began = hrtime(true);
        [$exit, $output] = $carryOut();

        return new self(
            $when,
            $command,
            $exit,
            implode("\n", array_map(Shown::name(...), explode("\n", $output))),
            round((hrtime(true) - $began) / 1e9, 3),
        );
    }

    /**
     * @return non-empty-list<string>
     *
     * @throws InvalidArgumentException if it is not a JSON list of arguments
     */
    public static function parse(string $json): array
    {
        $command = json_decode($json, true);
        if (
            ! is_array($command) ||
            ! array_is_list($command) ||
            $command === [] ||
            array_filter($command, fn (mixed $part): bool => ! is_string($part)) !== []
        ) {
            throw new InvalidArgumentException('A command is a JSON list of its arguments, such as ["/usr/local/bin/rest", "--now"].');
        }

        return $command;
    }

    public function isRight(): bool
    {
        return $this->exit === 0;
    }

    /** @return array{when: string, command: list<string>, exit: int|null, output: string, seconds: float} */
    public function toArray(): array
    {
        return [
            'when' => $this->when,
            'command' => $this->command,
            'exit' => $this->exit,
            'output' => $this->output,
            'seconds' => $this->seconds,
        ];
    }

    /** What a person should know of it; null if it went well. */
    public function remark(): ?string
    {
        return match (true) {
            $this->exit === 0 => null,
            $this->exit === null => "The command {$this->when} it did not end by itself: ".$this->lastLine(),
            default => "The command {$this->when} it ended with {$this->exit}: ".$this->lastLine(),
        };
    }

    /** What it said last. */
    public function lastLine(): string
    {
        $lines = array_filter(explode("\n", $this->output));

        return $lines === [] ? 'it said nothing.' : (string) end($lines);
    }
}

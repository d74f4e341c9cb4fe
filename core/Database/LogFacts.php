<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/** What is known of one binary log after it was read. */
final readonly class LogFacts
{
    public function __construct(
        /** Its name at the server, such as binlog.000007. */
        public string $file,
        public GtidState $before,
        public GtidState $after,
        public bool $isClosed,
        /** Behind its last whole transaction. */
        public int $wholeUntil,
        /** Why what is behind that cannot be read; null if nothing is lost. */
        public ?string $problem,
        public int $server,
        public string $version,
        /** Seconds since 1970. */
        public int $startedAt,
        /** Of its last whole transaction; of its start if it has none. */
        public int $lastAt,
        public int $transactions,
        public string $next = '',
    ) {
    }

    public static function of(string $file, LogReader $reader, int $lastAt): self
    {
        return new self(
            $file,
            $reader->before,
            $reader->after,
            $reader->isClosed,
            $reader->wholeUntil,
            $reader->problem,
            $reader->server,
            $reader->version,
            $reader->startedAt,
            $lastAt === 0 ? $reader->startedAt : $lastAt,
            $reader->transactions,
            $reader->next,
        );
    }

    public function series(): string
    {
        return (new LogPosition($this->file, 0))->series();
    }

    public function number(): int
    {
        return (new LogPosition($this->file, 0))->number();
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['before' => $this->before->text(), 'after' => $this->after->text()] + get_object_vars($this);
    }

    /** @param  array<string, mixed>  $facts */
    public static function fromArray(array $facts): self
    {
        return new self(
            (string) $facts['file'],
            GtidState::parse((string) $facts['before']),
            GtidState::parse((string) $facts['after']),
            (bool) $facts['isClosed'],
            (int) $facts['wholeUntil'],
            isset($facts['problem']) ? (string) $facts['problem'] : null,
            (int) $facts['server'],
            (string) $facts['version'],
            (int) $facts['startedAt'],
            (int) $facts['lastAt'],
            (int) $facts['transactions'],
            (string) $facts['next'],
        );
    }
}

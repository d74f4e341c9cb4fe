<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Models\BackupSet;
use Kaiseki\Core\Database\LogFacts;
use Kaiseki\Core\Database\LogPosition;

/** How some schemas get to the stop point: the dump, and how far each log is rolled forward. */
final readonly class Reach
{
    /**
     * @param  list<string>  $schemas
     * @param  list<LogFacts>  $logs  to read, in order; none where the dump is taken as it is
     */
    public function __construct(
        public BackupSet $dump,
        public array $schemas,
        public ?LogPosition $from,
        public ?LogPosition $until,
        public array $logs,
    ) {
    }

    /** Bytes of logs to read. */
    public function logBytes(): int
    {
        $bytes = 0;
        foreach ($this->logs as $log) {
            $first = $log->file === $this->from?->file ? $this->from->offset : 4;
            $bytes += max(0, ($log->file === $this->until?->file ? $this->until->offset : $log->wholeUntil) - $first);
        }

        return $bytes;
    }
}

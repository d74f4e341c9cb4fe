<?php

declare(strict_types=1);

namespace App\Runs;

use App\Models\Run;
use Closure;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Files\Progress;
use Kaiseki\Core\Files\UnableToRestore;

/** Writes down how far a run is, twice a second at most, and finds out whether it is to stop. */
final class RunProgress implements Progress
{
    /** Seconds between what it tells. */
    private const EACH = 0.5;

    private int $files = 0;

    private int $bytes = 0;

    private float $told = 0.0;

    private readonly float $began;

    /**
     * @param  (Closure(int, int): void)|null  $also
     * @param  int|null  $limit  megabytes (10^6) a second: who is faster waits
     */
    public function __construct(private readonly Run $run, private readonly ?Closure $also = null, private readonly ?int $limit = null)
    {
        $this->began = microtime(true);
    }

    public function advanced(int $files, int $bytes): void
    {
        $this->files += $files;
        $this->bytes += $bytes;
        if (microtime(true) - $this->told > self::EACH) {
            $this->tell();
        }
        while ($this->limit !== null && ($ahead = $this->bytes / ($this->limit * 1e6) - (microtime(true) - $this->began)) > 0) {
            usleep((int) (1e6 * min(self::EACH, $ahead)));
            $ahead < self::EACH || $this->tell();
        }
    }

    public function tell(): void
    {
        $this->told = microtime(true);
        DB::table('runs')
            ->where('id', $this->run->id)
            ->update(['files_done' => $this->files, 'bytes_done' => $this->bytes, 'heartbeat_at' => now()]);
        if ($this->also !== null) {
            ($this->also)($this->files, $this->bytes);
        }
        if (DB::table('runs')->where('id', $this->run->id)->value('stop_asked')) {
            throw UnableToRestore::stopped();
        }
    }
}

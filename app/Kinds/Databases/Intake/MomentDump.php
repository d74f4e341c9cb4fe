<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Intake;

use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Run\ExactFloats;
use App\Kinds\Databases\Run\SchemaFacts;
use App\Kinds\Databases\Run\TableContents;
use App\Kinds\Databases\Server\CannotReachServer;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Databases\Server\ServerLink;
use App\Kinds\Databases\Server\Tools;
use App\Sets\CannotRegister;
use Kaiseki\Core\Archive\GzipMemberWriter;
use Kaiseki\Core\Database\DumpScan;
use PDOException;

/**
 * A dump, and what its tables held at the same moment.
 *
 * Two sessions see one moment only if nothing is written between their beginnings, so all tables are locked for that long. A busy server
 * does not give that lock at once, and while it is waited for writers wait too: it is waited for shortly, and several times. A dump that
 * was not made under the lock still counts if the positions in the log of both sessions are one; without either it lacks the counts, and
 * says so.
 */
final class MomentDump
{
    private const ATTEMPTS = 4;

    /** Seconds for which writers may have to wait while two sessions begin at the same moment, in each attempt. */
    private const LOCK_WAIT = 3;

    /** Seconds between two attempts, in which writers get on. */
    private const PAUSE = 1;

    /** A dump that wrote so much has begun its session. */
    private const BEGUN_BYTES = 65536;

    private const LOCK_NOT_HAD_IN_TIME = 1205;

    public readonly DumpScan $scan;

    /** @var list<int> where the gzip member of each section begins, in bytes of the file */
    public array $members = [];

    /** @var array<string, array<string, TableContents>> schema => table => what it held */
    public array $counted = [];

    private ?PDOException $refusal = null;

    private bool $isLocked = false;

    private bool $beganLocked = false;

    /** @var resource */
    private $file;

    private readonly GzipMemberWriter $writer;

    /**
     * @param  ServerLink  $own  the session that counts
     * @param  list<string>  $schemas
     */
    private function __construct(
        private readonly ServerLink $link,
        private readonly ServerLink $own,
        private readonly array $schemas,
        string $path,
    ) {
        $this->file = fopen($path, 'wb') ?: throw CannotRegister::because("$path cannot be written.");
        $this->writer = new GzipMemberWriter($this->file, 1);
        $this->scan = new DumpScan(function (): void {
            $this->members[] = $this->writer->mayBeginMember()->offset;
        }, $this->writer->write(...));
    }

    /**
     * @param  list<string>  $schemas  what is dumped
     * @param  string  $path  where it is written, gzipped, over what is there
     *
     * @throws CannotRegister|CannotReachServer|CannotRestore|PDOException
     */
    public static function write(ServerLink $link, DatabaseServer $server, array $schemas, string $path): self
    {
        for ($attempt = 1; ; $attempt++) {
            $dump = new self($link, ServerLink::to($server), $schemas, $path);
            if ($dump->take(mustCount: $attempt < self::ATTEMPTS)) {
                return $dump;
            }
            sleep(self::PAUSE);
        }
    }

    /** @return list<string> */
    public function remarks(): array
    {
        $why =
            $this->refusal?->errorInfo[1] === self::LOCK_NOT_HAD_IN_TIME
                ? 'the server was too busy to stand still for a moment ('.self::ATTEMPTS.' attempts)'
                : 'its account may not lock tables (RELOAD), and they were written to meanwhile';

        return $this->counted !== []
            ? []
            : ["What its tables held was not counted when it was made: $why. A restore cannot compare with that."];
    }

    /** @return bool whether it was made; if not, it has to be made again */
    private function take(bool $mustCount): bool
    {
        try {
            $this->lock();
            if (! $this->isLocked && ! $this->link->keepsLog && $mustCount) {
                return false;
            }
            $this->own->exec('SET SESSION TRANSACTION ISOLATION LEVEL REPEATABLE READ');
            $this->own->exec('START TRANSACTION WITH CONSISTENT SNAPSHOT');
            if (! $this->dump($mustCount)) {
                return false;
            }
        } finally {
            $this->unlock();
            fclose($this->file);
        }
        if (! $this->scan->isWhole) {
            throw CannotRegister::because('mariadb-dump ended without its last line: a view may be invalid.');
        }
        if ($this->isOneMoment()) {
            $this->count();
        }
        $this->own->exec('COMMIT');

        return true;
    }

    /** @return bool false if it was given up, since it is not of the moment that the other session sees */
    private function dump(bool $mustBeOneMoment): bool
    {
        $hasBegun = false;
        foreach (Tools::dump($this->link, $this->options()) as $bytes) {
            $this->scan->feed($bytes);
            if (! $hasBegun && ($this->scan->logFile !== '' || $this->scan->bytes > self::BEGUN_BYTES)) {
                $hasBegun = true;
                if ($mustBeOneMoment && ! $this->isOneMoment()) {
                    return false;
                }
                $this->unlock();
            }
        }
        $this->scan->finish();
        $this->writer->finish();

        return true;
    }

    private function isOneMoment(): bool
    {
        return $this->beganLocked || ($this->link->keepsLog && $this->isAtPositionOfDump());
    }

    private function isAtPositionOfDump(): bool
    {
        $position = array_column($this->own->rows("SHOW STATUS LIKE 'binlog_snapshot_%'"), 'Value', 'Variable_name');

        return ($position['Binlog_snapshot_file'] ?? '') === $this->scan->logFile &&
            (int) ($position['Binlog_snapshot_position'] ?? -1) === $this->scan->logPosition;
    }

    private function count(): void
    {
        foreach ($this->schemas as $schema) {
            foreach ((new SchemaFacts($this->own, $schema))->contents() as $table => $held) {
                $isRounded = ExactFloats::has($this->own, $schema, (string) $table); // the dump holds six digits
                $this->counted[$schema][$table] = $isRounded ? new TableContents($held->rows, null) : $held;
            }
        }
    }

    private function lock(): void
    {
        try {
            $this->link->exec('SET lock_wait_timeout = '.self::LOCK_WAIT);
            $this->link->exec('FLUSH TABLES WITH READ LOCK');
            $this->isLocked = $this->beganLocked = true;
        } catch (PDOException $refusal) {
            $this->refusal = $refusal;
        }
    }

    private function unlock(): void
    {
        if ($this->isLocked) {
            $this->link->exec('UNLOCK TABLES');
            $this->isLocked = false;
        }
    }

    /** @return list<string> */
    private function options(): array
    {
        return [
            '--single-transaction',
            '--quick',
            '--routines',
            '--triggers',
            '--events',
            '--hex-blob',
            ...$this->link->keepsLog ? ['--master-data=2', '--gtid'] : [],
            '--databases',
            ...$this->schemas,
        ];
    }
}

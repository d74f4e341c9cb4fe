<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Intake;

use App\Kinds\Databases\Databases;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\RefusedFile;
use App\Models\BackupSet;
use App\Models\History;
use App\Models\Workload;
use App\Sets\AdoptedStore;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\LogReader;
use Kaiseki\Core\Database\UnreadableLog;

/** Registers dumps and binary logs where they lie. What a file is its content tells; a log that has grown since is read anew. */
final class DatabaseAdoption
{
    /** @var list<BackupSet> */
    public array $sets = [];

    /** @var list<RefusedFile> */
    public array $refused = [];

    /** @param  callable(string, int): void|null  $progress  told the file in hand, and how far it is */
    public function __construct(string $root, string $name, string $site, ?callable $progress = null)
    {
        $files = array_values(
            array_filter(
                scandir($root) ?: [],
                fn (string $file): bool => is_file("$root/$file") &&
                    ! is_link("$root/$file") &&
                    preg_match('/\.(index|state|json|b2sum|partial)$/', $file) !== 1,
            ),
        );
        $isNew = ! Workload::query()->where('name', $name)->exists();
        $workload = Workload::query()->firstOrCreate(['name' => $name], ['kind' => Databases::NAME]);
        if ($isNew) {
            DatabaseServer::query()->where('name', $name)->first()?->holds($workload);
        }
        $store = AdoptedStore::of($root, $name, $site);
        $registration = new DatabaseRegistration(
            $workload,
            $store,
            History::query()->firstOrCreate(['workload_id' => $workload->id, 'name' => '1']),
            $progress,
        );
        // Logs first: they tell at which moment the position of a dump was.
        $dumps = [];
        foreach ($files as $file) {
            $start = self::start("$root/$file");
            if (strlen($start) === 4 && $start === LogReader::MAGIC) {
                $this->tryTo($file, fn (): BackupSet => $registration->log($file));
            } elseif ($start === '') {
                $this->refuse($file, 'it is empty, or cannot be read');
            } elseif (preg_match('/\.sql(\.gz)?$/i', $file) === 1) {
                $dumps[] = $file;
            } else {
                $this->refuse($file, 'it is neither a binary log (it does not begin with fe 62 69 6e) nor named as a dump (.sql, .sql.gz)');
            }
        }
        foreach ($dumps as $file) {
            $this->tryTo($file, fn (): BackupSet => $registration->dump($file));
        }
        LogBases::settle($workload);
        if ($this->sets === [] && $isNew) {
            AdoptedStore::undo($workload, $store);
        }
        usort($this->sets, fn (BackupSet $a, BackupSet $b): int => $a->instant <=> $b->instant);
        foreach ($this->sets as $set) {
            $set->refresh();
        }
    }

    /** The first four bytes, unpacked. */
    private static function start(string $path): string
    {
        try {
            return ArchiveFile::at($path)->open()->read(4);
        } catch (UnreadableArchive) {
            return '';
        }
    }

    /** @param  callable(): BackupSet  $work */
    private function tryTo(string $file, callable $work): void
    {
        try {
            $this->sets[] = DB::transaction(fn (): BackupSet => $work());
        } catch (UnreadableArchive|UnreadableLog $unreadable) {
            $this->refuse($file, "it {$unreadable->getMessage()}");
        } catch (AlreadyKnown $known) {
            $this->refuse($file, $known->getMessage());
        }
    }

    private function refuse(string $file, string $because): void
    {
        $this->refused[] = new RefusedFile($file, $because);
    }
}

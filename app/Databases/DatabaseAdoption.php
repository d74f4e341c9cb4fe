<?php

declare(strict_types=1);

namespace App\Databases;

use App\Estate\AdoptedStore;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\DatabaseServer;
use App\Models\History;
use App\Models\Store;
use App\Models\Workload;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\PieceDigests;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\DumpScan;
use Kaiseki\Core\Database\LogReader;
use Kaiseki\Core\Database\UnreadableLog;

/** Registers dumps and binary logs where they lie. What a file is its content tells; a log that has grown since is read anew. */
final class DatabaseAdoption
{
    /** @var list<BackupSet> */
    public array $sets = [];

    /** @var list<array{file: string, because: string}> */
    public array $refused = [];

    private readonly Workload $workload;

    private readonly Store $store;

    private readonly History $history;

    /** @param  callable(string, int): void|null  $progress  told the file in hand, and how far it is */
    public function __construct(private readonly string $root, string $name, string $site, private $progress = null)
    {
        $files = array_values(array_filter(scandir($root) ?: [], fn (string $file): bool => is_file("$root/$file") && ! is_link("$root/$file") && preg_match('/\.(index|state|json|b2sum|partial)$/', $file) !== 1));
        $isNew = ! Workload::query()->where('name', $name)->exists();
        $this->workload = Workload::query()->firstOrCreate(['name' => $name], ['kind' => 'database', 'server_id' => DatabaseServer::query()->where('name', $name)->value('id')]);
        $this->store = AdoptedStore::of($root, $name, $site);
        $this->history = History::query()->firstOrCreate(['workload_id' => $this->workload->id, 'name' => '1']);
        // Logs first: they tell at which moment the position of a dump was.
        $dumps = [];
        foreach ($files as $file) {
            $start = self::start("$root/$file");
            if (strlen($start) === 4 && $start === LogReader::MAGIC) {
                $this->tryTo($file, fn (): BackupSet => $this->log($file));
            } elseif ($start === '') {
                $this->refuse($file, 'it is empty, or cannot be read');
            } elseif (preg_match('/\.sql(\.gz)?$/i', $file) === 1) {
                $dumps[] = $file;
            } else {
                $this->refuse($file, 'it is neither a binary log (it does not begin with fe 62 69 6e) nor named as a dump (.sql, .sql.gz)');
            }
        }
        foreach ($dumps as $file) {
            $this->tryTo($file, fn (): BackupSet => $this->dump($file));
        }
        LogBases::settle($this->workload);
        if ($this->sets === [] && $isNew) {
            AdoptedStore::undo($this->workload, $this->store);
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
            $this->sets[] = DB::transaction($work);
        } catch (UnreadableArchive|UnreadableLog $unreadable) {
            $this->refuse($file, "it {$unreadable->getMessage()}");
        } catch (AlreadyKnown $known) {
            $this->refuse($file, $known->getMessage());
        }
    }

    private function refuse(string $file, string $because): void
    {
        $this->refused[] = ['file' => $file, 'because' => $because];
    }

    private function log(string $file): BackupSet
    {
        $name = preg_replace('/\.gz$/i', '', $file) ?? $file;
        $known = $this->known($name);
        $path = "{$this->root}/$file";
        if ($known !== null && (($known->database['isClosed'] ?? true) || $known->bytes === filesize($path))) {
            throw AlreadyKnown::set($name);
        }
        $archive = ArchiveFile::at($path);
        $set = $known ?? $this->newSet($name, 'log', (int) filemtime($path));
        $log = new LogReader($archive->open());
        $facts = LogIndex::take($set, $name, $log, fn (int $read) => $this->progress === null ? null : ($this->progress)($file, $read));
        if ($facts->wholeUntil <= 4 || $facts->startedAt === 0) {
            throw UnreadableLog::because($facts->problem ?? 'holds nothing');
        }
        $last = BackupSet::query()->where('history_id', $this->history->id)->where('level', 'log')->where('id', '<>', $set->id)->first();
        $other = $last === null ? 0 : (int) ($last->database['server'] ?? 0);
        if ($other !== 0 && $facts->server !== 0 && $facts->server !== $other && ! $this->follows($facts->before->text())) {
            throw UnreadableLog::because("was written by server {$facts->server}; the logs of {$this->workload->name} are of server $other, and it follows none of them");
        }
        $remarks = array_values(array_filter([
            $facts->problem === null ? null : "This log {$facts->problem}.",
            $facts->isClosed || $facts->problem !== null ? null : 'It was still being written.',
        ]));
        $this->finish($set, $path, $file, $facts->lastAt, [
            'captured_from' => gmdate('Y-m-d H:i:s', $facts->startedAt), 'consistency' => 'application', 'entries' => $facts->transactions, 'database' => ['type' => 'log'] + $facts->toArray(), 'remarks' => $remarks,
        ], $archive->gzipped);

        return $set;
    }

    /** Whether a log goes on from where another of the workload ends. */
    private function follows(string $state): bool
    {
        return BackupSet::query()->where('history_id', $this->history->id)->where('level', 'log')->where('database->after', $state)->exists();
    }

    private function dump(string $file): BackupSet
    {
        $name = preg_replace('/\.sql(\.gz)?$/i', '', $file) ?? $file;
        if ($this->known($name) !== null) {
            throw AlreadyKnown::set($name);
        }
        $path = "{$this->root}/$file";
        $archive = ArchiveFile::at($path);
        $scan = new DumpScan;
        $stream = $archive->open();
        while (($bytes = $stream->read(1 << 20)) !== '') {
            $scan->feed($bytes);
            if ($this->progress !== null) {
                ($this->progress)($file, $scan->bytes);
            }
        }
        $scan->finish();
        $facts = DumpFacts::of($scan, (int) filemtime($path));
        $set = $this->newSet($name, 'full', $facts->at);
        $this->finish($set, $path, $file, $facts->at, [
            'consistency' => $facts->isOneMoment() ? 'application' : 'unknown', 'entries' => count($facts->tables()), 'database' => $facts->toArray(), 'remarks' => $facts->remarks, 'tree_bytes' => $scan->bytes,
        ], $archive->gzipped);
        DumpFacts::keepSections($set, $scan->sections);

        return $set;
    }

    private function known(string $name): ?BackupSet
    {
        if (strlen($name) > 200 || ! mb_check_encoding($name, 'UTF-8')) {
            throw UnreadableLog::because('has a name that is not UTF-8, or longer than 200 bytes');
        }

        return BackupSet::query()->where('workload_id', $this->workload->id)->where('name', $name)->first();
    }

    private function newSet(string $name, string $level, int $at): BackupSet
    {
        return BackupSet::query()->create([
            'workload_id' => $this->workload->id, 'history_id' => $this->history->id, 'name' => $name, 'level' => $level, 'instant' => LogBases::freeInstant($this->history->id, $at * 1_000_000), 'captured_at' => gmdate('Y-m-d H:i:s', $at),
        ]);
    }

    /** @param  array<string, mixed>  $more */
    private function finish(BackupSet $set, string $path, string $file, int $at, array $more, bool $gzipped): void
    {
        $pieces = PieceDigests::of(StreamBytes::ofFile($path));
        $set->update(['captured_at' => gmdate('Y-m-d H:i:s', $at), 'instant' => LogBases::freeInstant($this->history->id, $at * 1_000_000, $set->id), 'bytes' => $pieces->bytes, 'digest' => bin2hex($pieces->digest)] + $more);
        $pieces->write(\App\Estate\SetFiles::pieces($set->id));
        Copy::query()->updateOrCreate(['set_id' => $set->id, 'store_id' => $this->store->id], ['path' => $file, 'bytes' => $pieces->bytes, 'gzipped' => $gzipped, 'state' => 'ok']);
    }
}

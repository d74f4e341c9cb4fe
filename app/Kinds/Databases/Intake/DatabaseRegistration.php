<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Intake;

use App\Kinds\Databases\Run\TableContents;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\History;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\SetFiles;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\PieceDigests;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Database\DumpScan;
use Kaiseki\Core\Database\LogReader;
use Kaiseki\Core\Database\UnreadableLog;

/** Takes dumps and binary logs that lie on a store into the catalog. */
final class DatabaseRegistration
{
    /** @param  callable(string, int): void|null  $progress  told the file in hand, and how far it is */
    public function __construct(
        private readonly Workload $workload,
        private readonly Store $store,
        private readonly History $history,
        private $progress = null,
    ) {
    }

    public function log(string $file): BackupSet
    {
        $name = preg_replace('/\.gz$/i', '', basename($file)) ?? $file;
        $known = $this->known($name);
        $path = "{$this->store->root}/$file";
        if ($known !== null && (($known->facts['isClosed'] ?? true) || $known->bytes === filesize($path))) {
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
        $other = $last === null ? 0 : (int) ($last->facts['server'] ?? 0);
        if ($other !== 0 && $facts->server !== 0 && $facts->server !== $other && ! $this->follows($facts->before->text())) {
            throw UnreadableLog::because(
                "was written by server {$facts->server}; the logs of {$this->workload->name} are of server $other, and it follows none ".
                    'of them',
            );
        }
        $remarks = array_values(
            array_filter([
                $facts->problem === null ? null : "This log {$facts->problem}.",
                $facts->isClosed || $facts->problem !== null ? null : 'It was still being written.',
            ]),
        );
        $this->finish(
            $set,
            $path,
            $file,
            $facts->lastAt,
            [
                'captured_from' => gmdate('Y-m-d H:i:s', min($facts->startedAt, $facts->lastAt)),
                'consistency' => 'application',
                'entries' => $facts->transactions,
                'facts' => ['type' => 'log'] + $facts->toArray(),
                'remarks' => $remarks,
            ],
            $archive->gzipped,
        );

        return $set;
    }

    /** Whether a log goes on from where another of the workload ends. */
    private function follows(string $state): bool
    {
        return BackupSet::query()->where('history_id', $this->history->id)->where('level', 'log')->where('facts->after', $state)->exists();
    }

    public function dump(string $file): BackupSet
    {
        $name = preg_replace('/\.sql(\.gz)?$/i', '', basename($file)) ?? $file;
        if ($this->known($name) !== null) {
            throw AlreadyKnown::set($name);
        }
        $path = "{$this->store->root}/$file";
        $archive = ArchiveFile::at($path);
        $beside = SetRecordBeside::of(preg_replace('/\.sql(\.gz)?$/i', '', $path) ?? $path, $path);
        $scan = new DumpScan;
        $stream = $archive->open();
        while (($bytes = $stream->read(1 << 20)) !== '') {
            $scan->feed($bytes);
            if ($this->progress !== null) {
                ($this->progress)($file, $scan->bytes);
            }
        }
        $scan->finish();
        $facts = DumpFacts::of(
            $scan,
            (int) filemtime($path),
            TableContents::ofSchemas($beside['counted'] ?? []),
            $beside['at'] ?? null,
        );
        foreach ($scan->sections as $i => $section) {
            $section->member = $beside['members'][$i] ?? null;
        }
        $set = $this->newSet($name, 'full', $facts->at);
        $this->finish(
            $set,
            $path,
            $file,
            $facts->at,
            [
                'consistency' => $facts->isOneMoment() ? 'application' : 'unknown',
                'entries' => count($facts->tables()),
                'facts' => $facts->toArray(),
                'remarks' => $facts->remarks,
                'tree_bytes' => $scan->bytes,
            ],
            $archive->gzipped,
        );
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
            'workload_id' => $this->workload->id,
            'history_id' => $this->history->id,
            'name' => $name,
            'level' => $level,
            'instant' => BackupSet::freeInstant($this->history->id, $at * 1_000_000),
            'captured_at' => gmdate('Y-m-d H:i:s', $at),
        ]);
    }

    /** @param  array<string, mixed>  $more */
    private function finish(BackupSet $set, string $path, string $file, int $at, array $more, bool $gzipped): void
    {
        $pieces = PieceDigests::of(StreamBytes::ofFile($path));
        $set->update(
            [
                'captured_at' => gmdate('Y-m-d H:i:s', $at),
                'instant' => BackupSet::freeInstant($this->history->id, $at * 1_000_000, $set->id),
                'bytes' => $pieces->bytes,
                'digest' => bin2hex($pieces->digest),
            ] + $more,
        );
        $pieces->write(SetFiles::pieces($set->id));
        Copy::query()->updateOrCreate(
            ['set_id' => $set->id, 'store_id' => $this->store->id],
            ['path' => $file, 'bytes' => $pieces->bytes, 'gzipped' => $gzipped, 'state' => 'ok'],
        );
    }
}

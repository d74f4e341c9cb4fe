<?php

declare(strict_types=1);

namespace App\Estate;

use App\Instance;
use App\Models\BackupSet;
use App\Models\History;
use App\Models\Store;
use App\Models\Workload;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Protect\Clock;
use Kaiseki\Core\Protect\SetRecord;
use Kaiseki\Core\Protect\SetWriter;
use Kaiseki\Core\Protect\SourceState;
use Kaiseki\Core\Protect\SystemClock;
use Kaiseki\StandIns\FileHost;

/** Makes sets of a workload's live original, and catalogs them. */
final class Protection
{
    public function __construct(private readonly Workload $workload, private readonly Store $store)
    {
    }

    /**
     * @param  string|null  $base  the name of the set to reckon against; without it the rule of the level
     * @param  callable(int): void|null  $progress
     * @param  bool  $newHistory  the source was rebuilt: nothing builds on what was before
     *
     * @throws InvalidArgumentException
     * @throws CannotRegister
     */
    public function make(Level $asked, ?string $base = null, ?callable $progress = null, bool $newHistory = false): BackupSet
    {
        if ($asked->isLog() || $asked->isSnapshot()) {
            throw new InvalidArgumentException("A folder has no {$asked->words()}s of its own that are made here; make a full, diff or incr.");
        }
        if ($this->store->read_only) {
            throw CannotRegister::because("The store {$this->store->name} is read-only for us.");
        }
        if ($this->store->kind !== 'folder') {
            throw CannotRegister::because("A set is written to a folder first; copy it to {$this->store->name} after that.");
        }
        $source = $this->workload->source ?? throw new InvalidArgumentException("{$this->workload->name} has no source that is known here.");
        $clock = FileHost::of($source) ?? new SystemClock;
        $folder = FolderBelow::open($source);
        $history = $this->historyName($newHistory);
        $baseSet = $newHistory ? null : $this->base($asked, $base, $history);
        $remarks = [];
        $level = $asked;
        if ($baseSet === null && ! $asked->isFull()) {
            $level = Level::of('full');
            $remarks[] = $newHistory ? "A {$asked->words()} was asked for, but a new history begins with a full." : "A {$asked->words()} was asked for, but there was no full before it, so it became a full.";
        }
        $registration = new SetRegistration($this->workload, $this->store);
        $from = $clock->now();
        $name = "{$this->workload->name}.{$level->name}.{$from->in()->format('Ymd\THis\Z')}";
        if (file_exists("{$this->store->root}/$name.tar.gz")) {
            throw CannotRegister::because("There is a set $name already; wait a second and make it again.");
        }
        $path = $this->store->root.'/'.$this->workload->name;
        if (! is_dir($path)) {
            mkdir($path, 0755, true);
        }
        [$record, $state] = (new SetWriter($folder, $path))->write(
            $name, $baseSet === null ? null : $registration->tree($baseSet), $baseSet === null ? SourceState::none() : SourceState::read(SetFiles::sourceState($baseSet)),
            "kaiseki set; level={$level->name}; base=".($baseSet->name ?? ''),
            fn (): SetRecord => new SetRecord($name, $level, $asked, $baseSet?->name, $history, $from, self::end($clock, $from), $remarks),
        );
        $kept = Instance::folder('tmp')."/$name.source";
        $state->write($kept);
        unset($state);
        $set = $registration->add("{$this->workload->name}/$name.tar.gz", $name, $level, $record->capturedAt, $record->base, $history, $from, $progress);
        $set->update(['remarks' => [...$remarks, ...($set->remarks ?? [])]]);
        rename($kept, SetFiles::sourceState($set));

        return $set;
    }

    private static function end(Clock $clock, Instant $from): Instant
    {
        $now = $clock->now();

        return $from->isAfter($now) ? $from : $now;
    }

    /** That of the newest set, or the next number. */
    private function historyName(bool $new): string
    {
        if ($new) {
            return (string) ($this->workload->histories()->count() + 1);
        }
        $newest = $this->workload->sets()->orderByDesc('instant')->value('history_id');

        return $newest === null ? '1' : (string) History::query()->whereKey($newest)->value('name');
    }

    private function base(Level $level, ?string $named, string $history): ?BackupSet
    {
        if ($level->isFull()) {
            return null;
        }
        if ($named !== null) {
            return $this->workload->sets()->where('name', $named)->first() ?? throw new InvalidArgumentException("There is no set named \"$named\" of {$this->workload->name}.");
        }

        return SetRegistration::assumedBase((int) $this->workload->histories()->where('name', $history)->value('id'), $level);
    }
}

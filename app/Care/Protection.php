<?php

declare(strict_types=1);

namespace App\Care;

use App\Hosts\HostCommand;
use App\Instance;
use App\Kinds\Databases\Intake\DatabaseProtection;
use App\Models\BackupSet;
use App\Models\History;
use App\Models\Schedule;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\CannotRegister;
use App\Sets\SetFiles;
use App\Stores\ClosedFolder;
use App\Stores\UnableToStore;
use App\Trees\Intake\FoundSet;
use App\Trees\Intake\SetRegistration;
use Illuminate\Support\Facades\DB;
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
     * @param  list<string>|null  $before  argument list of a command that brings the source to rest
     * @param  list<string>|null  $after  of one that lets it go on; it runs also where the set could not be made
     * @param  int  $limit  seconds for each of them
     *
     * @throws InvalidArgumentException
     * @throws CannotRegister
     */
    public function make(Level $asked, ?string $base = null, ?callable $progress = null, bool $newHistory = false, ?array $before = null, ?array $after = null, int $limit = 60): BackupSet
    {
        $lock = 'kaiseki-make-'.md5(DB::connection()->getDatabaseName())."-{$this->workload->id}";
        if ((int) DB::scalar('SELECT GET_LOCK(?, 0)', [$lock]) !== 1) {
            throw CannotRegister::because("A set of {$this->workload->name} is being made already.");
        }
        try {
            return $this->makeNow($asked, $base, $progress, $newHistory, $before, $after, $limit);
        } finally {
            DB::scalar('SELECT RELEASE_LOCK(?)', [$lock]);
        }
    }

    /**
     * @param  callable(int): void|null  $progress
     * @param  list<string>|null  $before
     * @param  list<string>|null  $after
     */
    private function makeNow(Level $asked, ?string $base, ?callable $progress, bool $newHistory, ?array $before, ?array $after, int $limit): BackupSet
    {
        $began = hrtime(true);
        if ($this->workload->kind === 'database') {
            return (new DatabaseProtection($this->workload, $this->store))->make($asked, $newHistory, $before, $after, $limit);
        }
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
        $remarks = [...$remarks, ...self::closed($this->store)];
        $commands = [];
        if ($before !== null) {
            $commands[] = HostCommand::run('before', $before, dirname($source), $limit);
        }
        $registration = new SetRegistration($this->workload, $this->store);
        $from = $clock->now();
        $name = "{$this->workload->name}.{$level->name}.{$from->in()->format('Ymd\THis\Z')}";
        if (file_exists("{$this->store->root}/$name.tar.gz")) {
            throw CannotRegister::because("There is a set $name already; wait a second and make it again.");
        }
        $path = $this->store->root.'/'.$this->workload->name;
        if (! is_dir($path)) {
            mkdir($path, 0700, true);
        }
        $this->clearPartial($path);
        $letGo = function () use (&$commands, &$after, $source, $limit): void {
            if ($after !== null) {
                $commands[] = HostCommand::run('after', $after, dirname($source), $limit);
                $after = null;
            }
        };
        try {
            [$record, $state] = (new SetWriter($folder, $path))->write(
                $name, $baseSet === null ? null : $registration->tree($baseSet), $baseSet === null ? SourceState::none() : SourceState::read(SetFiles::sourceState($baseSet)),
                "kaiseki set; level={$level->name}; base=".($baseSet->name ?? ''),
                function () use ($name, $level, $asked, $baseSet, $history, $from, $clock, &$remarks, &$commands, $letGo): SetRecord {
                    $end = self::end($clock, $from);
                    $letGo(); // everything has been read
                    $remarks = [...$remarks, ...array_values(array_filter(array_map(fn (HostCommand $command): ?string => $command->remark(), $commands)))];

                    return new SetRecord($name, $level, $asked, $baseSet?->name, $history, $from, $end, $remarks, self::consistency($commands));
                },
            );
        } finally {
            $letGo();
        }
        $kept = Instance::folder('tmp')."/$name.source";
        $state->write($kept);
        unset($state);
        $set = $registration->add(new FoundSet("{$this->workload->name}/$name.tar.gz", $name, $level, $record->capturedAt, $record->base, $history, $from, $record->consistency, $remarks, true), $progress);
        $set->update([
            'made_in_s' => round((hrtime(true) - $began) / 1e9, 3),
            'commands' => $commands === [] ? null : array_map(fn (HostCommand $command): array => $command->toArray(), $commands),
        ]);
        rename($kept, SetFiles::sourceState($set));

        return $set;
    }

    /**
     * @return list<string>
     *
     * @throws CannotRegister if others can read the store
     */
    public static function closed(Store $store): array
    {
        try {
            return array_values(array_filter([ClosedFolder::mend($store->root)]));
        } catch (UnableToStore $unable) {
            throw CannotRegister::because($unable->getMessage());
        }
    }

    /**
     * The application was at rest if it was told so before, and to go on after, and both went well.
     *
     * @param  list<HostCommand>  $commands
     */
    private static function consistency(array $commands): string
    {
        $went = array_filter($commands, fn (HostCommand $command): bool => $command->isRight());

        return match (true) {
            $commands === [] => 'unknown',
            count($went) === count($commands) && $commands[0]->when === 'before' => 'application',
            default => 'none',
        };
    }

    /** What a maker that was killed left; only one at a time makes sets of a workload. */
    private function clearPartial(string $path): void
    {
        foreach (glob("$path/*.partial") ?: [] as $partial) {
            if (! str_contains(basename($partial), '.aside-')) {
                @unlink($partial);
            }
        }
    }

    private static function end(Clock $clock, Instant $from): Instant
    {
        $now = $clock->now();

        return $from->isAfter($now) ? $from : $now;
    }

    /**
     * A set of a workload as it is now, where its sets are made.
     *
     * @throws CannotRegister
     * @throws InvalidArgumentException
     */
    public static function ofPresent(Workload $workload): BackupSet
    {
        $store = Schedule::query()->with('store')->where('workload_id', $workload->id)->first()->store
            ?? Store::query()->where('kind', 'folder')->where('read_only', false)->orderByRaw('site <> ?', [$workload->site])->orderBy('id')->first()
            ?? throw CannotRegister::because('there is no store of ours to write it to');

        return (new self($workload, $store))->make(Level::of('incr'));
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

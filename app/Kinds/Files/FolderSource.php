<?php

declare(strict_types=1);

namespace App\Kinds\Files;

use App\Hosts\HostCommand;
use App\Instance;
use App\Kinds\MakingOrder;
use App\Kinds\Source;
use App\Models\BackupSet;
use App\Models\History;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\CannotRegister;
use App\Sets\Protection;
use App\Sets\SetFiles;
use App\Trees\Intake\FoundSet;
use App\Trees\Intake\SetRegistration;
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

/** A folder tree of this machine. */
final class FolderSource implements Source
{
    private Store $store;

    public function __construct(private readonly Workload $workload)
    {
    }

    public function levels(): array
    {
        return ['incr' => 'increment', 'diff' => 'differential', 'full' => 'full'];
    }

    public function makes(Level $level): bool
    {
        return ! $level->isLog() && ! $level->isSnapshot();
    }

    public function usualTimes(): array
    {
        return ['30 1 * * 0=full', '30 1 * * 1-6=incr'];
    }

    public function isKnown(): bool
    {
        return $this->workload->source !== null;
    }

    public function isGone(): bool
    {
        return $this->workload->source !== null && ! is_dir($this->workload->source);
    }

    public function place(): ?array
    {
        return $this->workload->source === null ? null : ['Its original is', $this->workload->source, ''];
    }

    public function levelOfPresent(): string
    {
        return 'incr';
    }

    public function make(MakingOrder $order): BackupSet
    {
        [$this->store, $asked, $newHistory, $before, $after, $limit] = [
            $order->store,
            $order->level,
            $order->newHistory,
            $order->before,
            $order->after,
            $order->limit,
        ];
        $began = hrtime(true);
        if ($asked->isLog() || $asked->isSnapshot()) {
            throw new InvalidArgumentException(
                "A folder has no {$asked->words()}s of its own that are made here; make a full, diff or incr.",
            );
        }
        $closed = Protection::closed($this->store);
        $source =
            $this->workload->source ?? throw new InvalidArgumentException("{$this->workload->name} has no source that is known here.");
        $clock = FileHost::of($source) ?? new SystemClock;
        $folder = FolderBelow::open($source);
        $history = $this->historyName($newHistory);
        $baseSet = $newHistory ? null : $this->base($asked, $order->base, $history);
        $remarks = [];
        $level = $asked;
        if ($baseSet === null && ! $asked->isFull()) {
            $level = Level::of('full');
            $remarks[] = $newHistory
                ? "A {$asked->words()} was asked for, but a new history begins with a full."
                : "A {$asked->words()} was asked for, but there was no full before it, so it became a full.";
        }
        $remarks = [...$remarks, ...$closed];
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
                $name,
                $baseSet === null ? null : $registration->tree($baseSet),
                $baseSet === null ? SourceState::none() : SourceState::read(SetFiles::sourceState($baseSet)),
                "kaiseki set; level={$level->name}; base=".($baseSet->name ?? ''),
                function () use ($name, $level, $asked, $baseSet, $history, $from, $clock, &$remarks, &$commands, $letGo): SetRecord {
                    $end = self::end($clock, $from);
                    $letGo(); // everything has been read
                    $remarks = [
                        ...$remarks,
                        ...array_values(array_filter(array_map(fn (HostCommand $command): ?string => $command->remark(), $commands))),
                    ];

                    return new SetRecord(
                        $name,
                        $level,
                        $asked,
                        $baseSet?->name,
                        $history,
                        $from,
                        $end,
                        $remarks,
                        self::consistency($commands),
                        Files::NAME,
                    );
                },
            );
        } finally {
            $letGo();
        }
        $kept = Instance::folder('tmp')."/$name.source";
        $state->write($kept);
        unset($state);
        $set = $registration->add(
            new FoundSet(
                "{$this->workload->name}/$name.tar.gz",
                $name,
                $level,
                $record->capturedAt,
                $record->base,
                $history,
                $from,
                $record->consistency,
                $remarks,
                true,
            ),
            $order->progress,
        );
        $set->update([
            'made_in_s' => round((hrtime(true) - $began) / 1e9, 3),
            'commands' => $commands === [] ? null : array_map(fn (HostCommand $command): array => $command->toArray(), $commands),
        ]);
        rename($kept, SetFiles::sourceState($set));

        return $set;
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
            return $this->workload->sets()->where('name', $named)->first() ??
                throw new InvalidArgumentException("There is no set named \"$named\" of {$this->workload->name}.");
        }

        return SetRegistration::assumedBase((int) $this->workload->histories()->where('name', $history)->value('id'), $level);
    }
}

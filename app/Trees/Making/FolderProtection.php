<?php

declare(strict_types=1);

namespace App\Trees\Making;

use App\Hosts\HostCommand;
use App\Instance;
use App\Kinds\MakingOrder;
use App\Models\BackupSet;
use App\Models\History;
use App\Models\Workload;
use App\Sets\CannotRegister;
use App\Sets\LeftOut;
use App\Sets\Protection;
use App\Sets\SetFiles;
use App\Trees\Intake\FoundSet;
use App\Trees\Intake\SetRegistration;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Protect\Clock;
use Kaiseki\Core\Protect\Exclusions;
use Kaiseki\Core\Protect\SetRecord;
use Kaiseki\Core\Protect\SetWriter;
use Kaiseki\Core\Protect\SourceState;

/** Makes one set of a tree of files. */
final class FolderProtection
{
    private readonly Clock $clock;

    private readonly string $history;

    private readonly ?BackupSet $base;

    /** That it becomes: a full where there is nothing to reckon against. */
    private readonly Level $level;

    private readonly Exclusions $excluded;

    /** @var list<HostCommand> those that ran before and after */
    private array $commands = [];

    private bool $hasLetGo = false;

    private bool $knowsLists = false;

    /** @var list<string> */
    private array $remarks;

    /** @throws InvalidArgumentException|CannotRegister if it cannot be made as it is ordered */
    public function __construct(
        private readonly Workload $workload,
        private readonly MakingOrder $order,
        private readonly Original $original,
    ) {
        $asked = $order->level;
        if ($asked->isLog() || $asked->isSnapshot()) {
            throw new InvalidArgumentException(
                "A tree of files has no {$asked->words()}s of its own that are made here; make a full, diff or incr.",
            );
        }
        $closed = Protection::closed($order->store);
        $runsCommands = $original->besideIt() !== null || ($order->before === null && $order->after === null);
        $runsCommands || throw new InvalidArgumentException(
            "{$workload->name} is no folder of this machine, so no commands run beside it: where it has an agent, put programs there, ".
                '/etc/kaiseki-agent/before and after.',
        );
        $this->excluded = LeftOut::of($workload);
        $this->clock = $original->clock();
        $this->history = $this->historyName();
        $this->base = $this->base();
        $becomesFull = $this->base === null && ! $asked->isFull();
        $this->level = $becomesFull ? Level::of('full') : $asked;
        $why = $order->newHistory ? 'but a new history begins with a full.' : 'but there was no full before it, so it became a full.';
        $this->remarks = [...$becomesFull ? ["A {$asked->words()} was asked for, $why"] : [], ...$closed];
    }

    /** @throws CannotRegister */
    public function make(): BackupSet
    {
        $began = hrtime(true);
        $this->original->reach();
        if ($this->order->before !== null) {
            $this->commands[] = HostCommand::run('before', $this->order->before, (string) $this->original->besideIt(), $this->order->limit);
        }
        $from = $this->clock->now();
        $name = "{$this->workload->name}.{$this->level->name}.{$from->in()->format('Ymd\THis\Z')}";
        SetRegistration::refuseIfKnown($this->workload, $name); // a clock that stands still, or was set back
        if (file_exists("{$this->order->store->root}/{$this->workload->name}/$name.tar.gz")) {
            throw CannotRegister::because("$name.tar.gz lies in its store, and is of no set that is known: adopt it, or move it away.");
        }
        $registration = new SetRegistration($this->workload, $this->order->store);
        try {
            $folder = $this->original->open();
            $this->knowsLists = $folder->access('', true) !== null;
            [$record, $state] = (new SetWriter($folder, $this->folder(), $this->excluded))->write(
                $name,
                $this->base === null ? null : $registration->tree($this->base),
                $this->base === null ? SourceState::none() : SourceState::read(SetFiles::sourceState($this->base)),
                "kaiseki set; level={$this->level->name}; base=".($this->base->name ?? ''),
                fn (): SetRecord => $this->record($name, $from),
            );
        } finally {
            $this->original->close();
            $this->letGo();
        }
        $kept = Instance::folder('tmp')."/$name.source";
        $state->write($kept);
        unset($state);
        $set = $registration->add($this->found($name, $record, $from), $this->order->progress);
        $set->update([
            'made_in_s' => round((hrtime(true) - $began) / 1e9, 3),
            'commands' => $this->commands === [] ? null : array_map(fn (HostCommand $of): array => $of->toArray(), $this->commands),
        ]);
        rename($kept, SetFiles::sourceState($set));

        return $set;
    }

    /** Everything has been read, and the application may go on. */
    private function letGo(): void
    {
        if ($this->order->after !== null && ! $this->hasLetGo) {
            $this->hasLetGo = true;
            $this->commands[] = HostCommand::run('after', $this->order->after, (string) $this->original->besideIt(), $this->order->limit);
        }
    }

    /** What is written beside the archive; it is asked for when everything has been read. */
    private function record(string $name, Instant $from): SetRecord
    {
        $end = self::end($this->clock, $from);
        $this->letGo();
        $more = $this->original->remarks();
        array_push($this->commands, ...$this->original->commands());
        $said = array_map(fn (HostCommand $command): ?string => $command->remark(), $this->commands);
        $this->remarks = [...$this->remarks, ...array_values(array_filter($said)), ...$more];

        return new SetRecord(
            $name,
            $this->level,
            $this->order->level,
            $this->base?->name,
            $this->history,
            $from,
            $end,
            $this->remarks,
            $this->consistency(),
            $this->workload->kind,
            $this->excluded,
        );
    }

    private function found(string $name, SetRecord $record, Instant $from): FoundSet
    {
        return new FoundSet(
            "{$this->workload->name}/$name.tar.gz",
            $name,
            $this->level,
            $record->capturedAt,
            $record->base,
            $this->history,
            $from,
            $record->consistency,
            $this->remarks,
            true,
            $this->knowsLists,
            $this->excluded,
        );
    }

    /** The application was at rest if it was told so before, and to go on after, and both went well. */
    private function consistency(): string
    {
        $went = array_filter($this->commands, fn (HostCommand $command): bool => $command->isRight());

        return match (true) {
            $this->commands === [] => 'unknown',
            count($went) === count($this->commands) && $this->commands[0]->when === 'before' => 'application',
            default => 'none',
        };
    }

    /** Where it is written; what a maker that was killed left there is cleared: only one at a time makes sets of a workload. */
    private function folder(): string
    {
        $path = "{$this->order->store->root}/{$this->workload->name}";
        if (! is_dir($path)) {
            mkdir($path, 0700, true);
        }
        foreach (glob("$path/*.partial") ?: [] as $partial) {
            if (! str_contains(basename($partial), '.aside-')) {
                @unlink($partial);
            }
        }

        return $path;
    }

    private static function end(Clock $clock, Instant $from): Instant
    {
        $now = $clock->now();

        return $from->isAfter($now) ? $from : $now;
    }

    /** That of the newest set, or the next number. */
    private function historyName(): string
    {
        if ($this->order->newHistory) {
            return (string) ($this->workload->histories()->count() + 1);
        }
        $newest = $this->workload->sets()->orderByDesc('instant')->value('history_id');

        return $newest === null ? '1' : (string) History::query()->whereKey($newest)->value('name');
    }

    /** What it is reckoned against; null for a full. */
    private function base(): ?BackupSet
    {
        $named = $this->order->base;
        if ($this->order->level->isFull() || $this->order->newHistory) {
            return null;
        }
        if ($named !== null) {
            return $this->workload->sets()->where('name', $named)->first() ??
                throw new InvalidArgumentException("There is no set named \"$named\" of {$this->workload->name}.");
        }
        $history = (int) $this->workload->histories()->where('name', $this->history)->value('id');

        return SetRegistration::assumedBase($history, $this->order->level);
    }
}

<?php

declare(strict_types=1);

namespace App\Databases;

use App\Models\Run;
use App\Runs\RunFiles;
use Kaiseki\Core\Database\Identifier;
use PDOException;

/** What a run has at its server: tables beside and aside, or rows that it changed. */
final readonly class RunAtServer
{
    public function __construct(private Run $run, private DatabaseOrder $order)
    {
    }

    /** Whether it has begun to put things in place. */
    public function isPlaced(): bool
    {
        foreach ($this->swaps() as $swap) {
            if ($swap->state()['stage'] !== 'none') {
                return true;
            }
        }

        return $this->order->isByRows() && $this->rowsAreChanged(ServerLink::to($this->order->server()));
    }

    /** @return array<string, Swap> schema => how it changes places */
    public function swaps(?ServerLink $link = null): array
    {
        if (! $this->order->isInPlace()) {
            return [];
        }
        $link ??= ServerLink::to($this->order->server());
        $swaps = [];
        foreach ($this->order->schemas as $schema) {
            $swaps[$schema] = new Swap($link, $schema, Swap::loadedName($this->run, $schema), Swap::asideName($this->run, $schema), $this->order->tables, RunFiles::folder($this->run).'/swap-'.hash('crc32b', $schema).'.json');
        }

        return $swaps;
    }

    public function rowChange(ServerLink $link): RowChange
    {
        return new RowChange($link, RowSchema::of($this->run), RunFiles::folder($this->run), $this->run->outcome['tables'] ?? []);
    }

    /** Also where an attempt was killed right after that, before it could say so. */
    public function rowsAreChanged(ServerLink $link): bool
    {
        return ($this->run->refresh()->outcome['applied'] ?? false) || $this->rowChange($link)->isDone();
    }

    /** Of a run that failed nothing half made stays at the server, unless it is in place. */
    public function tidy(): void
    {
        try {
            $link = ServerLink::to($this->order->server());
            $link->withoutLog();
            foreach ($this->swaps($link) as $swap) {
                $swap->forget();
            }
            foreach ($this->order->isInPlace() || $this->order->isByRows() ? [] : $this->order->schemas as $schema) {
                if ($link->one('SELECT 1 FROM information_schema.schemata WHERE schema_name = ? AND schema_comment = ?', [$schema, "kaiseki run {$this->run->label()}"]) !== null) {
                    $link->exec('SET foreign_key_checks = 0');
                    $link->exec('DROP DATABASE '.Identifier::quoted($schema));
                }
            }
            if ($this->order->isByRows() && ! $this->rowsAreChanged($link)) {
                $this->rowChange($link)->drop();
            }
        } catch (CannotReachServer|CannotRestore|PDOException) {
            // The server is gone: a later attempt of the same run clears what is left.
        }
    }

    public function whatWasDone(): string
    {
        foreach ($this->swaps() as $swap) {
            if (in_array($swap->state()['stage'], ['renamed', 'done'], true)) {
                return ' Tables had changed places before that; what was there is in the set-aside, and can be put back.';
            }
        }

        try {
            $isChanged = $this->order->isByRows() && $this->rowsAreChanged(ServerLink::to($this->order->server()));
        } catch (CannotReachServer|CannotRestore|PDOException) {
            return ' Whether anything at the server was changed could not be seen: it does not answer.';
        }

        return $isChanged ? ' The rows were changed before that, and can be put back.' : ' Nothing that was there was touched.';
    }
}

<?php

declare(strict_types=1);

namespace App\Trees\Making;

use App\Hosts\Hosts;
use App\Hosts\Walls;
use App\Kinds\CanLeaveOut;
use App\Kinds\MakingOrder;
use App\Kinds\Source;
use App\Kinds\SourcePlace;
use App\Models\BackupSet;
use App\Models\Workload;
use InvalidArgumentException;
use Kaiseki\Core\Files\Status;

/** A folder tree of this machine. */
final class FolderSource implements CanLeaveOut, Source
{
    use LevelsOfTree;

    public function __construct(private readonly Workload $workload)
    {
    }

    /**
     * The workload of which a folder is the original from now on.
     *
     * @param  string  $kind  of the workload
     * @param  Workload|null  $known  of that name
     *
     * @throws InvalidArgumentException if there is no such folder, or the workload has another original
     */
    public static function said(string $kind, string $source, string $name, ?Workload $known): Workload
    {
        $root = Walls::stand() ? $source : (string) realpath($source);
        if (Hosts::original($root)?->status('')?->type !== Status::FOLDER) {
            throw new InvalidArgumentException("There is no folder \"$source\".");
        }
        Workload::demandName($name);
        if ($known !== null && $known->kind !== $kind) {
            throw new InvalidArgumentException("$name is a workload of the kind \"{$known->kind}\".");
        }
        if ($known !== null && $known->source !== null && $known->source !== $root) {
            throw new InvalidArgumentException("$name has another source already: {$known->source}.");
        }

        return Workload::query()->updateOrCreate(['name' => $name], ['kind' => $kind, 'source' => $root]);
    }

    public function usualTimes(): array
    {
        return ['30 1 * * 0=full', '30 1 * * 1-6=incr'];
    }

    public function leftOutLike(): string
    {
        return '/logs/old';
    }

    public function isKnown(): bool
    {
        return $this->workload->source !== null;
    }

    public function isGone(): bool
    {
        $look = Hosts::original($this->workload->source);

        return $look !== null && $look->status('')?->type !== Status::FOLDER;
    }

    public function place(): ?SourcePlace
    {
        return $this->workload->source === null ? null : new SourcePlace('Its original is', $this->workload->source);
    }

    public function make(MakingOrder $order): BackupSet
    {
        $folder = $this->workload->source ??
            throw new InvalidArgumentException("{$this->workload->name} has no source that is known here.");

        return (new FolderProtection($this->workload, $order, new FolderOriginal($folder)))->make();
    }
}

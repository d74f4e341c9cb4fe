<?php

declare(strict_types=1);

namespace App\Agents;

use App\Kinds\Kinds;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Models\Workload;
use InvalidArgumentException;

/** The workload that a machine with an agent is. */
final class AgentWorkload
{
    /**
     * One that is there and is protected by nothing else, or a new one.
     *
     * @param  string|null  $group  of a new one; null for the general one
     *
     * @throws InvalidArgumentException in words, if it can be none
     */
    public static function named(string $name, ?string $group, string $site = 'boathouse', ?User $by = null): Workload
    {
        $kind = Kinds::takingAgents();
        $known = Workload::query()->where('name', $name)->first();
        if ($known !== null) {
            Kinds::of($known) === $kind && $known->source === null && ($by?->sees($known->group) ?? true)
                || throw new InvalidArgumentException("$name is protected otherwise: a machine with an agent is a workload of its own.");

            return $known;
        }
        Workload::demandName($name);
        $group === null || preg_match('/^[\pL\pN][\pL\pN ._-]{0,59}$/Du', $group) === 1 || throw new InvalidArgumentException(
            'The name of a group has letters, digits, spaces, dots, dashes and underscores, and at most 60 of them.',
        );
        $said = ['name' => $name, 'kind' => $kind->name(), 'site' => $site] + ($group === null ? [] : ['group' => $group]);
        $workload = Workload::query()->create($said)->refresh();
        TrailEntry::add("The workload $name was made, for a machine with an agent.", null, $by, sort: TrailSort::Rule, workload: $workload);

        return $workload;
    }
}

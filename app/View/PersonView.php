<?php

declare(strict_types=1);

namespace App\View;

use App\Kinds\Targets;
use App\Models\User;
use App\Models\Workload;
use App\Rights\Groups;
use App\Rights\Reached;

/** One person: what they see, and which targets they reach, by which rule. */
final readonly class PersonView
{
    /** @var list<Reached> */
    public array $reached;

    /** @var array<string, int> group => workloads that they see of it */
    public array $seen;

    /** @var list<string> */
    public array $groups;

    public function __construct(public User $person, public User $viewer)
    {
        $this->reached = Reached::targets($person, Targets::all());
        $this->seen = Workload::seenBy($person)
            ->selectRaw('`group`, COUNT(*) AS n')
            ->groupBy('group')
            ->orderBy('group')
            ->pluck('n', 'group')
            ->all();
        $this->groups = Groups::known();
    }

    /** What they are. */
    public function inWords(): string
    {
        $duties = $this->person->dutiesInWords();

        return $this->person->role->value.($duties === '' ? '' : ", $duties");
    }

    public function mayChange(): bool
    {
        return $this->viewer->can('administer') && $this->viewer->id !== $this->person->id;
    }
}

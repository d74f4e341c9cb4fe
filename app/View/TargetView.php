<?php

declare(strict_types=1);

namespace App\View;

use App\Models\Target;
use App\Models\TargetRight;
use App\Rights\Groups;
use App\Rights\Reached;

/** One target: who reaches it, and by which rule. */
final readonly class TargetView
{
    /** @var list<TargetRight> */
    public array $rules;

    /** @var list<Reached> by name */
    public array $people;

    /** @var list<string> */
    public array $groups;

    public function __construct(public Target $target)
    {
        $this->rules = array_values(TargetRight::of($target)->orderBy('group')->orderBy('role')->get()->all());
        $this->groups = Groups::known();
        $this->people = Reached::people($target);
    }

    public function url(): string
    {
        return '/rights/'.$this->target::sort()."/{$this->target->id()}";
    }
}

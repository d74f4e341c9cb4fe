<?php

declare(strict_types=1);

namespace App\View;

use App\Kinds\Targets;
use App\Models\Target;
use App\Models\TargetRight;
use Illuminate\Http\Request;

/** All targets, and whom each belongs to. */
final class RightsView
{
    private const MOST = 200;

    public readonly string $filter;

    /** @var list<Target> */
    public readonly array $targets;

    /** How many fit, beyond those shown too. */
    public readonly int $fitting;

    /** @var array<string, list<TargetRight>> as TargetRight::byTarget() */
    private readonly array $rules;

    public function __construct(Request $request)
    {
        $this->filter = trim($request->string('of')->value());
        $this->rules = TargetRight::byTarget();
        $fitting = array_values(array_filter(Targets::all(), $this->fits(...)));
        usort($fitting, fn (Target $a, Target $b): int => count($this->rules($a)) <=> count($this->rules($b)) ?:
            [$a::sort(), $a->name()] <=> [$b::sort(), $b->name()]); // what nobody reaches comes first
        $this->fitting = count($fitting);
        $this->targets = array_slice($fitting, 0, self::MOST);
    }

    private function fits(Target $target): bool
    {
        $groups = implode(' ', array_map(fn (TargetRight $rule): string => $rule->group, $this->rules($target)));
        $text = $target::sort()." {$target->name()} {$target->whereabouts()} $groups";

        return $this->filter === '' || mb_stripos($text, $this->filter) !== false;
    }

    /** @return list<TargetRight> */
    public function rules(Target $target): array
    {
        return $this->rules[TargetRight::key($target)] ?? [];
    }

    /** @return list<string> */
    public function inWords(Target $target): array
    {
        return array_map(fn (TargetRight $rule): string => $rule->words(), $this->rules($target));
    }
}

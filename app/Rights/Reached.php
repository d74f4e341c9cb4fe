<?php

declare(strict_types=1);

namespace App\Rights;

use App\Models\Right;
use App\Models\Role;
use App\Models\Target;
use App\Models\TargetRight;
use App\Models\User;

/** That one person may do something with one target, and by which rules. */
final readonly class Reached
{
    /**
     * @param  list<Right>  $rights
     * @param  list<TargetRight>  $rules  each that gives one of them
     */
    private function __construct(
        public User $person,
        public Target $target,
        public array $rights,
        public array $rules,
    ) {
    }

    /** Null if they may do nothing with it. */
    private static function by(User $person, Target $target, PersonRights $of): ?self
    {
        $rights = $of->rights($target);
        $rules = [];
        foreach ($rights as $right) {
            $rule = $of->rule($right, $target);
            if ($rule !== null) {
                $rules[$rule->id] = $rule;
            }
        }

        return $rights === [] ? null : new self($person, $target, $rights, array_values($rules));
    }

    /** @return list<self> who reaches a target, by name; whoever is locked reaches nothing */
    public static function people(Target $target): array
    {
        $people = User::query()->whereNull('locked_at')->whereIn('role', Role::withRights())->orderBy('name')->get();

        $rules = TargetRight::byTarget();

        return array_values(
            array_filter($people->map(fn (User $one): ?self => self::by($one, $target, PersonRights::of($one, $rules)))->all()),
        );
    }

    /**
     * @param  list<Target>  $all
     * @return list<self> of these, those that a person reaches
     */
    public static function targets(User $person, array $all): array
    {
        $rights = PersonRights::of($person);

        return array_values(array_filter(array_map(fn (Target $one): ?self => self::by($person, $one, $rights), $all)));
    }

    public function may(): string
    {
        return Right::words($this->rights);
    }

    public function because(): string
    {
        return implode('; ', array_map(fn (TargetRight $rule): string => $rule->words(), $this->rules));
    }
}

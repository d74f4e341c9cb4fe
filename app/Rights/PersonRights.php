<?php

declare(strict_types=1);

namespace App\Rights;

use App\Models\Right;
use App\Models\Role;
use App\Models\Store;
use App\Models\Target;
use App\Models\TargetRight;
use App\Models\User;
use Illuminate\Database\Eloquent\Builder;
use Kaiseki\Core\Chain\CopyRule;

/** What one person may do with which target, by which rule. */
final class PersonRights
{
    /** @param  array<string, list<TargetRight>>|null  $all  as TargetRight::byTarget() gives them; null: read when they are needed */
    private function __construct(private readonly User $user, private ?array $all)
    {
    }

    /** @param  array<string, list<TargetRight>>|null  $all  as TargetRight::byTarget() gives them, where several people are asked of */
    public static function of(User $user, ?array $all = null): self
    {
        return new self($user, $all);
    }

    /** Whether it belongs to a group that the person sees. */
    public function sees(Target $target): bool
    {
        return $this->rules($target) !== [];
    }

    public function may(Right $right, Target $target): bool
    {
        return $this->rule($right, $target) !== null;
    }

    /** The rule by which the person may; null if they may not. */
    public function rule(Right $right, Target $target): ?TargetRight
    {
        foreach ($this->rules($target) as $rule) {
            if ($rule->role === $this->user->role && $rule->gives($right)) {
                return $rule;
            }
        }

        return null;
    }

    /** @return list<Right> */
    public function rights(Target $target): array
    {
        return array_values(array_filter(Right::cases(), fn (Right $right): bool => $this->may($right, $target)));
    }

    /** Why an order that does this with it is refused; null if it is not. */
    public function refuses(Right $right, Target $target): ?string
    {
        $what = match ($right) {
            Right::Read => 'read from',
            Right::Write => 'write to',
            Right::Tend => 'tend',
        };

        return $this->may($right, $target)
            ? null
            : "You may not $what the {$target::sort()} {$target->name()}: it belongs to no group of yours that may. An administrator can ".
                'give the right.';
    }

    /** Why an order that names stores to use is refused; null if it is not. To leave one alone needs no right. */
    public function refusesStores(CopyRule $rule): ?string
    {
        $named = array_map(fn (string $name): string => strstr($name, '/', true) ?: $name, $rule->use);

        return $this->refusesReading(array_values(array_unique($named)));
    }

    /** @param  list<string>  $stores  names of those that are read */
    public function refusesReading(array $stores): ?string
    {
        $unread = array_diff($stores, $this->stores(Right::Read)->pluck('name')->all());

        return $unread === []
            ? null
            : 'You may not read from '.implode(', ', $unread).'. Choose other copies under How, or ask an administrator for the right.';
    }

    /** @return Builder<Store> those with which the person may do this; without a right those that they see */
    public function stores(?Right $right = null): Builder
    {
        $may = TargetRight::query()->where('type', Store::sort());
        if (! $this->user->seesAllGroups()) {
            $may->whereIn('group', $this->user->groups());
        }
        if ($right !== null) {
            $may->where('role', $this->user->role)->where("may_{$right->value}", true);
        }

        return $this->user->role === Role::Administrator
            ? Store::query()->whereRaw('FALSE')
            : Store::query()->whereIn('id', $may->select('target_id'));
    }

    /** @return list<TargetRight> of groups that the person sees, of any role */
    private function rules(Target $target): array
    {
        $this->all ??= TargetRight::byTarget();
        $rules = $this->all[TargetRight::key($target)] ?? [];

        return array_values(array_filter($rules, fn (TargetRight $rule): bool => $this->user->sees($rule->group)));
    }
}

<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;

/**
 * A rule: people of a role who see a group have these rights on a target that belongs to it.
 *
 * @property int $id
 * @property string $type as Target::sort()
 * @property int $target_id
 * @property string $group
 * @property Role $role
 * @property bool $may_read
 * @property bool $may_write
 * @property bool $may_tend
 */
final class TargetRight extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['role' => Role::class, 'may_read' => 'boolean', 'may_write' => 'boolean', 'may_tend' => 'boolean'];
    }

    /** @return Builder<self> */
    public static function of(Target $target): Builder
    {
        return self::query()->where('type', $target::sort())->where('target_id', $target->id());
    }

    /**
     * In place of what the rule was; the target belongs to the group from now on, also with no rights.
     *
     * @param  list<Right>  $rights
     */
    public static function give(Target $target, string $group, Role $role, array $rights): void
    {
        self::query()->updateOrCreate(
            ['type' => $target::sort(), 'target_id' => $target->id(), 'group' => $group, 'role' => $role],
            [
                'may_read' => in_array(Right::Read, $rights, true),
                'may_write' => in_array(Right::Write, $rights, true),
                'may_tend' => in_array(Right::Tend, $rights, true),
            ],
        );
    }

    /** @return list<Right> */
    public function rights(): array
    {
        return array_values(array_filter(Right::cases(), $this->gives(...)));
    }

    public function gives(Right $right): bool
    {
        return match ($right) {
            Right::Read => $this->may_read,
            Right::Write => $this->may_write,
            Right::Tend => $this->may_tend,
        };
    }

    /** @return array<string, list<self>> all rules, by group, under the key of their target */
    public static function byTarget(): array
    {
        $rules = [];
        foreach (self::query()->orderBy('group')->get() as $rule) {
            $rules["{$rule->type} {$rule->target_id}"][] = $rule;
        }

        return $rules;
    }

    public static function key(Target $target): string
    {
        return $target::sort()." {$target->id()}";
    }

    /** "operators of crew office: read, write" */
    public function words(): string
    {
        return "{$this->role->value}s of {$this->group}: ".Right::words($this->rights());
    }
}

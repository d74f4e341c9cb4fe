<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * @property int $id
 * @property string $name
 * @property string $kind mail or webhook
 * @property string $address
 * @property string|null $secret
 * @property list<string>|null $sorts null for all
 * @property list<string>|null $groups null for all
 * @property int $repeat_min
 */
final class AlarmReceiver extends Model
{
    protected $guarded = [];

    protected $hidden = ['secret'];

    protected function casts(): array
    {
        return ['secret' => 'encrypted', 'sorts' => 'array', 'groups' => 'array'];
    }

    /** Whether an alarm is for it; one of no workload is for who hears of all groups. */
    public function hears(Alarm $alarm): bool
    {
        $isSort = $this->sorts === null || in_array($alarm->sort->value, $this->sorts, true);

        return $isSort && ($this->groups === null || ($alarm->workload !== null && in_array($alarm->workload->group, $this->groups, true)));
    }
}

<?php

declare(strict_types=1);

namespace App\Kinds\Items\Own;

use App\Models\User;
use App\Models\Workload;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Query\Builder;

/**
 * A mailbox that is a person's, though it does not bear their address: one of an office, or of who left.
 *
 * @property int $id
 * @property int $workload_id
 * @property int $user_id
 * @property string $mailbox
 * @property-read Workload $workload
 * @property-read User $user
 */
final class GivenMailbox extends Model
{
    protected $table = 'own_mailboxes';

    protected $guarded = [];

    /**
     * Those of a person that are in the sets.
     *
     * @param  list<int>  $workloads
     * @return Collection<int, self>
     */
    public static function thereOf(User $user, array $workloads): Collection
    {
        return self::query()
            ->where('user_id', $user->id)
            ->whereIn('workload_id', $workloads)
            ->whereExists(fn (Builder $there) => $there
                ->from('item_mailboxes')
                ->whereColumn('item_mailboxes.workload_id', 'own_mailboxes.workload_id')
                ->whereColumn('item_mailboxes.mailbox', 'own_mailboxes.mailbox'))
            ->get();
    }

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}

<?php

declare(strict_types=1);

namespace App\Orders;

use App\Models\Consent;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\People\BrowserMark;
use Carbon\CarbonInterface;
use Illuminate\Support\Facades\DB;

/** Yes or no of a second person to a deed on a workload. */
final class Consents
{
    /**
     * @param  string|null  $seen  the fingerprint of what they say yes to; null for a no
     * @param  string|null  $words  needed for a no
     * @return string what came of it
     *
     * @throws CannotOrder if it was decided already, or is not what was shown any more
     */
    public static function decide(Consent $consent, User $by, ?string $seen, ?string $words): string
    {
        DB::transaction(function () use ($consent, $by, $seen, $words): void {
            $locked = Consent::query()->lockForUpdate()->findOrFail($consent->id);
            if ($locked->state !== 'asked') {
                throw CannotOrder::because("This was {$locked->state} already.");
            }
            if ($by->cannot('decide', $locked)) {
                throw CannotOrder::because('Somebody else must decide this.');
            }
            if ($seen !== null && BrowserMark::isThisOne($locked->asked_from)) {
                throw CannotOrder::because(Approvals::SAME_BROWSER);
            }
            if ($seen !== null && $seen !== $locked->fingerprint()) {
                throw CannotOrder::because('Something else was shown than what is asked for now. Read it again, then decide.');
            }
            $locked->update(['state' => $seen !== null ? 'approved' : 'refused', 'decision_words' => $words] + self::by($by));
            TrailEntry::add(
                rtrim("{$by->name} said ".($seen === null ? 'no' : 'yes, as '.substr($seen, 0, 16).',')." to: {$locked->words} $words"),
                null,
                $by,
                sort: TrailSort::Order,
            );
        });
        if ($seen === null) {
            return 'It is written down.';
        }
        try {
            return Deeds::from($consent->deed)->carryOut($consent->workload, $consent->detail, $consent->asker);
        } catch (CannotOrder $cannot) {
            $consent->refresh()->update(['state' => 'failed', 'decision_words' => mb_strcut($cannot->getMessage(), 0, 1000)]);
            throw $cannot;
        }
    }

    public static function withdraw(Consent $consent, User $by): void
    {
        $open = Consent::query()->whereKey($consent->id)->where('state', 'asked');
        if ($open->update(['state' => 'withdrawn'] + self::by($by)) === 1) {
            TrailEntry::add("{$by->name} withdrew: {$consent->words}", null, $by, sort: TrailSort::Order);
        }
    }

    /** @return array{decided_by: int, decided_at: CarbonInterface} */
    public static function by(User $user): array
    {
        return ['decided_by' => $user->id, 'decided_at' => now()];
    }
}

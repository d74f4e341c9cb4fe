<?php

declare(strict_types=1);

namespace App\Agents;

use App\Line\ComesByCode;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A machine that sends its sets itself, by what runs on it, or the code by which it may begin to. A workload has one at a time.
 *
 * @property int $id
 * @property int $workload_id
 * @property int|null $user_id
 * @property string $code
 * @property int $tries
 * @property CarbonImmutable $expires_at
 * @property string|null $token
 * @property string|null $phrase
 * @property string|null $address
 * @property string|null $host
 * @property string|null $system
 * @property string|null $version
 * @property int $sequence
 * @property CarbonImmutable|null $enrolled_at
 * @property CarbonImmutable|null $seen_at
 * @property CarbonImmutable|null $ended_at
 * @property string|null $ended_because
 * @property-read Workload $workload
 */
final class Agent extends Model
{
    use ComesByCode;

    public const MINUTES = 1440;

    /** Seconds without a word, after which it is taken for gone. */
    public const SILENT = 180;

    protected $guarded = [];

    protected function casts(): array
    {
        return array_fill_keys(['expires_at', 'enrolled_at', 'seen_at', 'ended_at'], 'immutable_datetime');
    }

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    /** @return array{self, string} with the code, which nobody can be told again */
    public static function open(Workload $workload, ?User $by, int $minutes = self::MINUTES): array
    {
        [$one, $code] = self::await(['workload_id' => $workload->id, 'user_id' => $by?->id], $minutes);
        TrailEntry::add("A code for an agent was made: {$one->named()}.", null, $by, sort: TrailSort::Rule);

        return [$one, $code];
    }

    /**
     * Of two that a workload would have, the newer one is it: the machine was made anew, and the old one must not write into its history.
     *
     * @param  array{host: string, system: string, version: string}  $said
     * @return array{self, string}|null with its token; null if the code is none that lets it in
     */
    public static function enrol(string $typed, array $said, string $address): ?array
    {
        $got = self::admit($typed, $address, $said);
        if ($got !== null) {
            $others = self::query()->where('workload_id', $got[0]->workload_id)->whereNotNull('token')->whereNull('ended_at');
            foreach ($others->whereKeyNot($got[0]->id)->get() as $older) {
                $older->end("agent {$got[0]->id} took its place");
                TrailEntry::add("Took the place of {$older->named()}: {$got[0]->named()}.", null, null);
            }
        }

        return $got;
    }

    /** The one that a workload's sets come from; null if it has none that made itself known. */
    public static function of(Workload $workload): ?self
    {
        return self::query()->where('workload_id', $workload->id)->whereNotNull('token')->whereNull('ended_at')->first();
    }

    /** Nothing is taken from it any more. */
    public function revoke(?User $by): void
    {
        $this->ended_at !== null || $this->end($by === null ? 'it was revoked' : "{$by->name} revoked it");
        TrailEntry::add("Revoked: {$this->named()}.", null, $by, sort: TrailSort::Rule, workload: $this->workload);
    }

    private function named(): string
    {
        return "agent {$this->id} of {$this->workload->name}";
    }

    private function requestOf(): null
    {
        return null;
    }

    /** In words. */
    public function state(): string
    {
        return match (true) {
            $this->ended_at !== null => 'is over: '.$this->ended_because,
            $this->token === null => $this->expires_at->isPast() ? 'is over: nobody came in time' : 'waits for its machine',
            $this->isSilent() => 'is silent',
            default => 'asks for work',
        };
    }
}

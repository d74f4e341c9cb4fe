<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Scan;

use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Standing\Standing;
use App\Models\TrailEntry;
use App\Models\User;
use App\Words;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A look through the files of a machine in an annex.
 *
 * @property int $id
 * @property int $annex_id
 * @property int|null $user_id null for the command line
 * @property int $budget seconds that it may take
 * @property string $state WAITING, RUNNING, DONE or FAILED
 * @property int $files that were looked into
 * @property int $bytes
 * @property list<array{path: string, because: string}>|null $not_looked the first of what was not; paths percent-encoded
 * @property int $not_looked_count
 * @property string|null $failure
 * @property CarbonImmutable|null $began_at
 * @property CarbonImmutable|null $ended_at
 * @property CarbonImmutable $updated_at while it runs, each second
 * @property-read Annex $annex
 */
final class AnnexScan extends Model
{
    public const WAITING = 'waiting';

    public const RUNNING = 'running';

    public const DONE = 'done';

    public const FAILED = 'failed';

    public const BUDGET = 300;

    public const MOST_SECONDS = 3600;

    /** Seconds after which one that tells nothing is dead. */
    private const SILENT = 900;

    protected $guarded = [];

    protected function casts(): array
    {
        $moment = 'immutable_datetime';

        return ['not_looked' => 'array', 'began_at' => $moment, 'ended_at' => $moment, 'updated_at' => $moment];
    }

    /** @return BelongsTo<Annex, $this> */
    public function annex(): BelongsTo
    {
        return $this->belongsTo(Annex::class);
    }

    /** The last one of an annex. */
    public static function lastOf(Annex $annex): ?self
    {
        return self::query()->where('annex_id', $annex->id)->orderByDesc('id')->first();
    }

    /** The last one of an annex that came to its end. */
    public static function lastDoneOf(Annex $annex): ?self
    {
        return self::query()->where(['annex_id' => $annex->id, 'state' => self::DONE])->orderByDesc('id')->first();
    }

    /** One of which nothing was heard for long was killed. */
    public function isAtWork(): bool
    {
        return in_array($this->state, [self::WAITING, self::RUNNING], true) && $this->updated_at->isAfter(now()->subSeconds(self::SILENT));
    }

    /** "4,711 files looked into, 3 things not" */
    public function words(): string
    {
        $not = $this->not_looked_count === 0 ? 'nothing left out' : Words::count($this->not_looked_count, 'thing').' not';

        return Words::count($this->files, 'file')." looked into, $not";
    }

    /** @throws CannotBring if it cannot be scanned now */
    public static function order(Standing $standing, int $budget, ?User $by): self
    {
        $annex = Annex::around($standing->run) ?? throw CannotBring::because("{$standing->machine} is in no annex.");
        Scanner::isThere() || throw CannotBring::because('There is no scanner on this machine: "bin/start" fetches one.');
        $last = self::lastOf($annex);
        $last?->isAtWork() !== true || throw CannotBring::because('It is being scanned already.');
        $of = ['annex_id' => $annex->id, 'user_id' => $by?->id, 'budget' => min($budget, self::MOST_SECONDS), 'state' => self::WAITING];
        $scan = self::query()->create($of)->refresh();
        TrailEntry::add("A scan of {$standing->machine} was ordered.", $standing->run->request, $by, $standing->run);

        return $scan;
    }
}

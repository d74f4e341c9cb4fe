<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Scan;

use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Order\CannotBring;
use App\Models\TrailEntry;
use App\Models\User;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Kaiseki\Core\Catalog\Shown;

/**
 * A file of a machine in an annex that is on a list of what is known to be bad. Somebody, or a rule, says what it is.
 *
 * @property int $id
 * @property int $annex_id
 * @property int $scan_id that saw it last
 * @property string $path percent-encoded
 * @property string $what name of what it was found to be
 * @property string $digest SHA-256, hexadecimal
 * @property int $size
 * @property string|null $verdict HARMLESS or BAD; null while nobody has decided
 * @property bool $by_rule
 * @property int|null $user_id
 * @property string|null $why
 * @property CarbonImmutable|null $decided_at
 * @property-read Annex $annex
 * @property-read User|null $user
 */
final class AnnexFinding extends Model
{
    public const HARMLESS = 'harmless';

    public const BAD = 'bad';

    protected $guarded = [];

    protected function casts(): array
    {
        return ['by_rule' => 'bool', 'decided_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Annex, $this> */
    public function annex(): BelongsTo
    {
        return $this->belongsTo(Annex::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** @return Collection<int, self> what the last scan of an annex that came to its end found, the undecided first */
    public static function of(Annex $annex): Collection
    {
        return self::query()
            ->where('annex_id', $annex->id)
            ->where('scan_id', AnnexScan::lastDoneOf($annex)->id ?? 0)
            ->with('user')
            ->orderByRaw('verdict IS NOT NULL, id')
            ->get();
    }

    public function shownPath(): string
    {
        return '/'.Shown::name(rawurldecode($this->path));
    }

    /** @throws CannotBring if nothing is said, or it is too late */
    public function decide(string $verdict, string $why, ?User $by): void
    {
        trim($why) !== '' || throw CannotBring::because('Say why: it is listed with the verdict.');
        $this->annex->ended === null || throw CannotBring::because("It was {$this->annex->ended} out of its annex already.");
        $this->update(['verdict' => $verdict, 'by_rule' => false, 'user_id' => $by?->id, 'why' => $why, 'decided_at' => now()]);
        $run = $this->annex->run;
        TrailEntry::add("{$this->shownPath()}, found to be {$this->what}, is $verdict: $why", $run->request, $by, $run);
    }

    /** What somebody said of the same file before holds on, and what a rule says holds without anybody. */
    public static function found(AnnexScan $scan, string $path, string $what, string $digest, int $size): void
    {
        $same = ['annex_id' => $scan->annex_id, 'path' => rawurlencode($path), 'what' => $what, 'digest' => $digest];
        $rule = Scanner::harmless()[$digest] ?? null;
        self::query()->updateOrCreate($same, ['scan_id' => $scan->id, 'size' => $size] + ($rule === null ? [] : [
            'verdict' => self::HARMLESS, 'by_rule' => true, 'why' => "known to be $rule", 'decided_at' => now(),
        ]));
    }
}

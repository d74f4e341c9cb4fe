<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Annex;

use App\Kinds\Machines\Hypervisors\MachineLook;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Standing\Standing;
use App\Models\TrailEntry;
use App\Models\User;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/**
 * Something that was done in a machine while it was in an annex: what, why and by whom.
 *
 * @property int $id
 * @property int $annex_id
 * @property int|null $user_id null for the command line
 * @property string $sort RUN or TYPE
 * @property list<string> $what a command and its arguments, or one text
 * @property string $why
 * @property string $state WAITING, DONE or FAILED
 * @property string|null $result what came of it, in words
 * @property CarbonImmutable $created_at
 * @property-read Annex $annex
 * @property-read User|null $user
 */
final class AnnexChange extends Model
{
    public const RUN = 'run';

    public const TYPE = 'type';

    public const WAITING = 'waiting';

    public const DONE = 'done';

    public const FAILED = 'failed';

    /** Seconds in which a command must end. */
    private const PATIENCE = 120;

    public const LONGEST = 1000;

    protected $guarded = [];

    protected function casts(): array
    {
        return ['what' => 'array'];
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

    /**
     * @param  non-empty-list<string>  $what
     *
     * @throws CannotBring if nothing can be done in it
     */
    public static function order(Standing $standing, string $sort, array $what, string $why, ?User $by): self
    {
        $annex = Annex::around($standing->run)
            ?? throw CannotBring::because("{$standing->machine} is in no annex: what is done in it would not be kept apart.");
        trim($why) !== '' || throw CannotBring::because('Say why: it is listed with what was done.');
        $change = self::query()->create([
            'annex_id' => $annex->id, 'user_id' => $by?->id, 'sort' => $sort, 'what' => $what, 'why' => $why, 'state' => self::WAITING,
        ]);
        $entry = ($sort === self::RUN ? 'Ran in ' : 'Typed at ')."{$standing->machine}: {$change->words()} ($why)";
        TrailEntry::add($entry, $standing->run->request, $by, $standing->run);

        return $change;
    }

    /** What was done, in one line. */
    public function words(): string
    {
        $isLine = count($this->what) === 3 && array_slice($this->what, 0, 2) === ['sh', '-c'];

        return Shown::name($isLine ? $this->what[2] : implode(' ', $this->what));
    }

    public function carryOut(): void
    {
        $standing = Standing::ofRun($this->annex->run);
        try {
            $standing?->ended === null && $standing !== null || throw HypervisorFailure::because('it does not stand any more');
            $hypervisor = $standing->hypervisor->open();
            if ($this->sort === self::TYPE) {
                $hypervisor->type($standing->machine, implode(' ', $this->what)."\r");
                $this->update(['state' => self::DONE, 'result' => 'typed']);

                return;
            }
            $came = $hypervisor->runInside($standing->machine, $this->what ?: ['true'], self::PATIENCE);
        } catch (HypervisorFailure $failure) {
            $this->update(['state' => self::FAILED, 'result' => mb_substr(mb_scrub($failure->getMessage()), 0, self::LONGEST)]);

            return;
        }
        $ended = $came->exit === null ? 'it did not end in time, and was ended' : "exit status {$came->exit}";
        $said = MachineLook::shown(mb_scrub($came->output));
        $this->update([
            'state' => $came->exit === 0 ? self::DONE : self::FAILED,
            'result' => mb_substr(trim("$ended\n$said"), 0, 4 * self::LONGEST),
        ]);
        $this->annex->lookIfItCan(); // what it sent for that is listed with it
    }
}

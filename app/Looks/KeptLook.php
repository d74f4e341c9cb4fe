<?php

declare(strict_types=1);

namespace App\Looks;

use App\Jobs\TakeLook;
use App\Kinds\Look;
use App\Models;
use App\Models\RecoveryRequest;
use App\Runs\WorkerProcess;
use Carbon\CarbonImmutable;

/** A look as a page shows it: what was found last, if anything, and whether somebody looks at it now. */
final readonly class KeptLook
{
    /** Minutes after which a page that is opened has it looked at again. */
    private const STALE_MIN = 5;

    /** @var array<string, mixed>|null read once: it may be thousands of lines */
    private ?array $found;

    private function __construct(private Look $look, private ?Models\Look $kept)
    {
        $this->found = $kept?->found;
    }

    public static function of(RecoveryRequest $request, Look $look): self
    {
        return new self($look, $request->looks()->where('fingerprint', $look->fingerprint())->first());
    }

    /**
     * Has it looked at, unless that is under way.
     *
     * @param  array<string, string>  $asked
     * @param  class-string<Look>  $type
     */
    public static function begin(RecoveryRequest $request, string $type, array $asked): void
    {
        $kept = $request->looks()->firstOrNew(['fingerprint' => (new $type($request, $asked))->fingerprint()]);
        if ($kept->exists && self::isAtWork($kept)) {
            return;
        }
        $kept
            ->fill(['type' => $type, 'asked' => $asked, 'state' => 'waiting', 'told' => null, 'worker' => null, 'asked_at' => now()])
            ->save();
        TakeLook::dispatch($kept->id);
    }

    /** What was found may hold contents: it goes after a day. */
    public static function forgetOld(): void
    {
        Models\Look::query()->where('asked_at', '<', now()->subDay())->delete();
    }

    public function title(): string
    {
        return $this->look->title();
    }

    /** @return array<string, mixed>|null what was found; null if nobody looked yet */
    public function found(): ?array
    {
        return $this->found;
    }

    /** When what was found was so. */
    public function at(): ?CarbonImmutable
    {
        return $this->found === null ? null : $this->kept?->began_at;
    }

    public function isUnderWay(): bool
    {
        return $this->kept !== null && self::isAtWork($this->kept);
    }

    /** Whether somebody is about to look, or looking; not if the process that looked has died. */
    private static function isAtWork(Models\Look $kept): bool
    {
        return $kept->state === 'waiting' || ($kept->state === 'running' && WorkerProcess::isAlive((string) $kept->worker));
    }

    public function askedAt(): ?CarbonImmutable
    {
        return $this->kept?->asked_at;
    }

    public function told(): ?string
    {
        return $this->kept?->told;
    }

    /** Why nothing was found the last time; null if something was, or somebody looks again. */
    public function failure(): ?string
    {
        return match (true) {
            $this->kept === null || $this->isUnderWay() => null,
            $this->kept->state === 'failed' => $this->kept->failure,
            $this->kept->state === 'running' => 'The process that looked ended before it was through.',
            default => null,
        };
    }

    /** Whether a page that is opened should have it looked at, without being told to. */
    public function isWanted(): bool
    {
        return ! $this->isUnderWay() && $this->failure() === null && ($this->at()?->addMinutes(self::STALE_MIN)->isPast() ?? true);
    }
}

<?php

declare(strict_types=1);

namespace App\Line;

use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use Kaiseki\Core\Metal\EnrolmentCode;

/**
 * For a model of machines that come over the line: by a code of words, once, until a time; known by a token from then on, until that
 * ends. Its columns: code, tries, expires_at, token, phrase, address, enrolled_at, seen_at, ended_at, ended_because.
 */
trait ComesByCode
{
    /** What the trail says of one that has this number, such as "enrolment 4, for gate-console". */
    abstract private function named(): string;

    /** For which the trail notes it; null for none. */
    abstract private function requestOf(): ?RecoveryRequest;

    /**
     * Gives a machine its token, if the code is right, was not used, and is not over. Three wrong ones end it.
     *
     * @param  array<string, mixed>  $also  columns with what it says of itself
     * @return array{static, string}|null
     */
    private static function admit(string $typed, string $address, array $also): ?array
    {
        [$number, $words] = EnrolmentCode::parse($typed) ?? [0, ''];
        $one = static::query()->find($number);
        if ($one === null || $one->ended_at !== null || $one->token !== null || $one->expires_at->isPast()) {
            return null;
        }
        if (! hash_equals($one->code, self::hashed($number, $words))) {
            static::query()->whereKey($number)->increment('tries');
            $one->refresh()->tries < 3 || $one->end('a wrong code was tried 3 times');
            $tried = "A wrong code was tried for {$one->named()}, from $address.";
            TrailEntry::add($tried, $one->requestOf(), null, workload: $one->workload);

            return null;
        }
        $token = bin2hex(random_bytes(32));
        // Of two machines with one code, one gets it.
        $got = static::query()->whereKey($number)->whereNull('token')->whereNull('ended_at')->update([
            'token' => hash('sha256', $token),
            'phrase' => EnrolmentCode::phrase($token),
            'address' => $address,
            'enrolled_at' => now(),
            'seen_at' => now(),
        ] + $also);
        if ($got !== 1) {
            return null;
        }
        TrailEntry::add("A machine made itself known from $address: {$one->named()}.", $one->requestOf(), null, workload: $one->workload);

        return [$one->refresh(), $token];
    }

    /**
     * One that waits for its machine.
     *
     * @param  array<string, mixed>  $of  its other columns
     * @return array{self, string} with the code, which nobody can be told again
     */
    private static function await(array $of, int $minutes): array
    {
        $words = EnrolmentCode::secret();
        $one = static::query()->create(['code' => '', 'expires_at' => now()->addMinutes($minutes)] + $of);
        $one->update(['code' => self::hashed($one->id, $words)]);

        return [$one, "{$one->id}-$words"];
    }

    /** The one that holds a token; null if none does, or it is over. */
    public static function holding(string $token): ?static
    {
        return $token === '' ? null : static::query()->where('token', hash('sha256', $token))->whereNull('ended_at')->first();
    }

    /** Heard of it just now; written down every few seconds. */
    public function heard(): void
    {
        if ($this->seen_at === null || $this->seen_at->diffInSeconds(now()) > 2) {
            static::query()->whereKey($this->id)->update(['seen_at' => now()]);
        }
    }

    public function isSilent(): bool
    {
        return $this->seen_at !== null && $this->seen_at->diffInSeconds(now()) > self::SILENT;
    }

    public function end(string $because): void
    {
        $this->update(['ended_at' => now(), 'ended_because' => mb_strcut(mb_scrub($because), 0, 300)]);
    }

    private static function hashed(int $number, string $words): string
    {
        return hash('sha256', "$number-$words");
    }
}

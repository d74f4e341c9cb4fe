<?php

declare(strict_types=1);

namespace App\People;

use App\Models\User;
use Carbon\CarbonImmutable;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use stdClass;

/** A session in which somebody is signed in. Its own name is a secret; here it has another, made from it. */
final readonly class OpenSession
{
    private function __construct(
        public string $name,
        public ?string $address,
        public string $browser,
        public CarbonImmutable $lastAt,
        public bool $isThis,
    ) {
    }

    /** @return list<self> those of a person that have not ended, the last used first */
    public static function of(User $user, string $here): array
    {
        return array_values(
            self::rows($user)
                ->map(
                    fn (stdClass $row): self => new self(
                        self::named((string) $row->id),
                        $row->ip_address,
                        mb_strimwidth(mb_scrub((string) $row->user_agent), 0, 120, '…'),
                        CarbonImmutable::createFromTimestampUTC((int) $row->last_activity),
                        $row->id === $here,
                    ),
                )
                ->all(),
        );
    }

    /** @return int how many were ended */
    public static function end(User $user, string $name): int
    {
        $ids = self::rows($user)->pluck('id')->filter(fn (string $id): bool => self::named($id) === $name)->all();

        return DB::table('sessions')->where('user_id', $user->id)->whereIn('id', $ids)->delete();
    }

    public static function endOthers(User $user, string $here): int
    {
        return DB::table('sessions')->where('user_id', $user->id)->where('id', '<>', $here)->delete();
    }

    /** @return Collection<int, stdClass> */
    private static function rows(User $user): Collection
    {
        return DB::table('sessions')
            ->where('user_id', $user->id)
            ->where('last_activity', '>=', now()->subMinutes((int) config('session.lifetime'))->getTimestamp())
            ->orderByDesc('last_activity')
            ->limit(100)
            ->get();
    }

    private static function named(string $id): string
    {
        return substr(hash('sha256', $id), 0, 16);
    }
}

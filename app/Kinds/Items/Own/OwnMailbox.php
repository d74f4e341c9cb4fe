<?php

declare(strict_types=1);

namespace App\Kinds\Items\Own;

use App\Kinds\Items\Server\MailServer;
use App\Models\Role;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Support\Facades\DB;

/** A mailbox that is a person's, of a workload whose rule lets people bring back what is their own. */
final readonly class OwnMailbox
{
    /** @param  string  $name  as the sets have it */
    private function __construct(public Workload $workload, public string $name, public OwnRule $rule)
    {
    }

    /**
     * The one that bears their address, and those that were given to them; none to who sees no content, or not this workload.
     *
     * @return list<self> by workload and name
     */
    public static function of(User $user): array
    {
        if ($user->role === Role::Administrator || $user->locked_at !== null) {
            return [];
        }
        $own = [];
        foreach (OwnRule::query()->with('workload')->get() as $rule) {
            foreach ($user->sees($rule->workload->group) ? self::names($user, $rule->workload) : [] as $name) {
                $own["{$rule->workload->name}\0$name"] = new self($rule->workload, $name, $rule);
            }
        }
        ksort($own);

        return array_values($own);
    }

    /**
     * The address of its page, or of one below it.
     *
     * @param  array<string, string>  $more  what else is asked there
     */
    public function page(string $below = '', array $more = []): string
    {
        return "/own/{$this->workload->id}$below?".http_build_query(['mailbox' => $this->name] + $more);
    }

    /** Null unless it is theirs. */
    public static function named(User $user, Workload $workload, string $name): ?self
    {
        foreach (self::of($user) as $one) {
            if ($one->workload->id === $workload->id && $one->name === $name) {
                return $one;
            }
        }

        return null;
    }

    /** @return list<string> */
    private static function names(User $user, Workload $workload): array
    {
        $there = DB::table('item_folders')->where('workload_id', $workload->id)->distinct()->pluck('mailbox')->map(strval(...))->all();
        $given = GivenMailbox::query()->where(['workload_id' => $workload->id, 'user_id' => $user->id])->pluck('mailbox')->all();
        $server = MailServer::of($workload);
        $bears = fn (string $name): bool => self::isAddress($user->email, $name) ||
            ($server !== null && self::isAddress($user->email, $server->accountOf($name)));

        return array_values(array_filter($there, fn (string $name): bool => in_array($name, $given, true) || $bears($name)));
    }

    /** Whole addresses only: a name that merely begins as one is somebody else's. */
    private static function isAddress(string $email, string $name): bool
    {
        return str_contains($email, '@') && mb_strtolower($email) === mb_strtolower($name);
    }
}

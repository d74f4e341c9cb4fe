<?php

declare(strict_types=1);

namespace App\Kinds\Items\Own;

use App\Kinds\Items\Catalog\MailboxNames;
use App\Kinds\Items\Server\MailServer;
use App\Models\Role;
use App\Models\User;
use App\Models\Workload;

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
        $rules = OwnRule::query()->with('workload')->get()->filter(fn (OwnRule $rule): bool => $user->sees($rule->workload->group));
        $own = [];
        foreach ($rules->isEmpty() ? [] : self::names($user, $rules->modelKeys()) as $workload => $names) {
            $rule = $rules->find($workload);
            foreach ($names as $name) {
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

    /**
     * @param  list<int>  $workloads
     * @return array<int, list<string>> workload => names of mailboxes
     */
    private static function names(User $user, array $workloads): array
    {
        $names = [];
        $servers = MailServer::ofAll($workloads);
        foreach (MailboxNames::within($user->email, $workloads) as $workload => $there) {
            $server = $servers[$workload] ?? null;
            $bears = fn (string $name): bool => self::isAddress($user->email, $name) ||
                ($server !== null && self::isAddress($user->email, $server->accountOf($name)));
            $names[$workload] = array_values(array_filter($there, $bears));
        }
        foreach (GivenMailbox::thereOf($user, $workloads) as $given) {
            $names[$given->workload_id][] = $given->mailbox;
        }

        return array_map(fn (array $some): array => array_values(array_unique($some)), $names);
    }

    /** Whole addresses only: a name that merely begins as one is somebody else's. */
    private static function isAddress(string $email, string $name): bool
    {
        return str_contains($email, '@') && mb_strtolower($email) === mb_strtolower($name);
    }
}

<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Databases\Server\TouchedServer;
use App\Kinds\Touched;
use App\Models\RecoveryRequest;
use App\Models\User;
use Illuminate\Validation\ValidationException;

/** What was decided for a request about a database, after one more decision: some decisions put others aside. */
final class ChangedChoice
{
    /** What says where it stops. */
    private const STOP = ['at' => null, 'before' => null, 'through' => null, 'position' => null];

    /** What says which way it goes. */
    private const WAY = ['in-place' => null, 'rows-of' => null, 'reverse' => null, 'skip' => null, 'schema' => null];

    /** @var array<string, mixed> */
    private array $choice;

    public function __construct(private readonly RecoveryRequest $request)
    {
        $this->choice = DatabaseSaid::of($request)->choice;
    }

    public function keep(): void
    {
        (new DatabaseSaid($this->choice))->keepOn($this->request)->save();
    }

    /** @param  string  $stop  at, before or through; "wanted" for the wanted moment */
    public function stop(string $stop, string $gtid): void
    {
        $this->choice = array_diff_key($this->choice, self::STOP, ['rows-of' => null, 'reverse' => null]);
        if ($stop !== 'wanted') {
            $this->choice[$stop] = $gtid;
        }
    }

    /**
     * @param  string|null  $gtid  of the transaction in hand; null for the one that is suspected most
     *
     * @throws ValidationException if there is none, and the way needs one
     */
    public function way(string $way, ?string $gtid): void
    {
        $gtid ??= $this->suspect()?->gtid;
        if ($gtid === null && in_array($way, ['rows', 'reverse', 'skip'], true)) {
            throw ValidationException::withMessages(['way' => 'Choose a transaction in When first.']);
        }
        $kept = array_diff_key($this->choice, self::WAY);
        $bare = array_diff_key($kept, self::STOP, ['tables' => null]);
        $this->choice = match ($way) {
            'in-place' => array_diff_key($kept, ['tables' => null]) + ['in-place' => true],
            'tables' => $kept + ['in-place' => true, 'tables' => $this->tablesInHand()],
            'rows' => $bare + ['rows-of' => $gtid],
            'reverse' => $bare + ['reverse' => $gtid],
            'skip' => $bare + ['in-place' => true, 'skip' => [$gtid], 'at' => now()->utc()->format('Y-m-d\TH:i:s\Z')],
            default => $kept,
        };
    }

    /** @param  list<string>  $tables  of the schema; none for all of it */
    public function tables(array $tables): void
    {
        $this->choice = ['tables' => array_values(array_unique($tables))] + $this->choice;
    }

    /**
     * @param  string|null  $schema  a name beside what is there; null for its place
     *
     * @throws ValidationException if the person may not reach the server
     */
    public function where(User $user, ?string $server, ?string $schema, bool $inPlace): void
    {
        $named = $server === null ? null : DatabaseServer::query()->where('name', $server)->first();
        $refused = $named === null ? null : (new Touched([TouchedServer::place($named, false)]))->refusedTo($user);
        if ($refused !== null) {
            throw ValidationException::withMessages(['server' => $refused]);
        }
        $choice = ['server' => $server] + $this->choice;
        $this->choice = $inPlace
            ? array_diff_key($choice, ['schema' => null, 'skip' => null]) + ['in-place' => true]
            : ['schema' => $schema] + array_diff_key($choice, self::WAY);
    }

    /** @param  string|null  $query  what is asked when it is there; null for nothing */
    public function question(?string $query, bool $takeConflicts): void
    {
        $this->choice = ['query' => $query, 'take-conflicts' => $takeConflicts] + $this->choice;
    }

    private function suspect(): ?LoggedTransaction
    {
        return (new Ways(new DatabaseSheet($this->request)))->suspect();
    }

    /** @return list<string> those that the transaction in hand is about */
    private function tablesInHand(): array
    {
        return array_values(array_unique(array_column($this->suspect()->tables ?? [], 'table')));
    }
}

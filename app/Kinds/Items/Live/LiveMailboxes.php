<?php

declare(strict_types=1);

namespace App\Kinds\Items\Live;

use App\Instance;
use App\Kinds\Items\Items;
use App\Kinds\Items\Server\MailServer;
use App\Models\Workload;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;

/** Mailboxes that are read from their server, where nobody gets at its files. */
final readonly class LiveMailboxes
{
    private const MOST = 5_000;

    /** @param  list<string>  $mailboxes  as the sets are to call them */
    private function __construct(public Workload $workload, public MailServer $server, public array $mailboxes)
    {
    }

    /** Null for a workload whose files are read. */
    public static function of(Workload $workload): ?self
    {
        $row = DB::table('mail_live')->where('workload_id', $workload->id)->first();
        $server = $row === null ? null : MailServer::query()->find($row->server_id);
        $mailboxes = $row === null ? [] : (array) json_decode($row->mailboxes, true);

        return $server === null || $mailboxes === []
            ? null
            : new self($workload, $server, array_values(array_map(strval(...), $mailboxes)));
    }

    /**
     * The workload whose mailboxes are read from a server from now on.
     *
     * @param  string  $mailboxes  names, with commas between them
     * @param  Workload|null  $known  of that name
     *
     * @throws InvalidArgumentException if that means nothing, or the workload has another original
     */
    public static function said(string $server, string $mailboxes, string $name, ?Workload $known): Workload
    {
        $from = MailServer::query()->where('name', $server)->first() ??
            throw new InvalidArgumentException("There is no mail server named \"$server\"; \"mail-server list\" shows those there are.");
        $said = array_map(trim(...), explode(',', $mailboxes));
        $names = array_values(array_unique(array_filter($said, fn (string $one): bool => $one !== '')));
        foreach ($names as $one) {
            MirrorPath::isMailbox($one) ||
                throw new InvalidArgumentException("\"$one\" is no name of a mailbox that files can be called by.");
        }
        if ($names === [] || count($names) > self::MOST) {
            throw new InvalidArgumentException(
                'Say with --mailboxes which mailboxes are read, with commas between them; at most '.self::MOST.'.',
            );
        }
        Workload::demandName($name);
        if ($known !== null && ($known->kind !== Items::NAME || $known->source !== null)) {
            throw new InvalidArgumentException("$name is another workload already, or is read from a folder.");
        }
        $workload = $known ?? Workload::query()->create(['name' => $name, 'kind' => Items::NAME])->refresh();
        DB::table('mail_live')->updateOrInsert(
            ['workload_id' => $workload->id],
            ['server_id' => $from->id, 'mailboxes' => json_encode($names, JSON_THROW_ON_ERROR)],
        );
        $from->holds($workload);

        return $workload;
    }

    /** Where what was read last lies, so that only what changed is read again. */
    public function folder(): string
    {
        return Instance::folder("mirrors/{$this->workload->id}");
    }
}

<?php

declare(strict_types=1);

namespace App\Kinds\Items\Server;

use App\Models\BelongsToGroups;
use App\Models\Target;
use App\Models\Workload;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Mail\Dav\DavAddress;
use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Dav\DavHome;
use Kaiseki\Core\Mail\Imap\ImapAddress;
use Kaiseki\Core\Mail\Imap\ImapFailure;
use Kaiseki\Core\Mail\Imap\ImapMailbox;

/**
 * A server of mail, calendars and contacts that items are brought back to, by an account that may open every mailbox.
 *
 * @property int $id
 * @property string $name
 * @property string $imap see ImapAddress; '' for a server without mail
 * @property string $dav see DavAddress; '' for one without calendars and contacts
 * @property string $user
 * @property string $password
 * @property string $naming the name of a mailbox there, with {mailbox}; or with {name} and {above}, the last part of it and the one before
 * @property string $site
 * @property list<string>|null $makes the command that makes a mailbox there, whose name it reads; null where whoever runs it does
 * @property list<string>|null $unmakes the one that takes it away again
 */
final class MailServer extends Model implements Target
{
    use BelongsToGroups;

    protected $guarded = [];

    protected $hidden = ['password'];

    protected function casts(): array
    {
        return ['password' => 'encrypted', 'makes' => 'array', 'unmakes' => 'array'];
    }

    /** The one that the mailboxes of a workload are on; null if that is not known. */
    public static function of(Workload $workload): ?self
    {
        return self::query()
            ->whereIn('id', DB::table('mail_originals')->where('workload_id', $workload->id)->select('server_id'))
            ->first();
    }

    /**
     * @param  list<int>  $workloads
     * @return array<int, self> workload => the one that its mailboxes are on, where that is known
     */
    public static function ofAll(array $workloads): array
    {
        $servers = self::query()->get()->keyBy('id');
        $known = DB::table('mail_originals')->whereIn('workload_id', $workloads)->pluck('server_id', 'workload_id')->all();

        return array_filter(array_map(fn (mixed $server): ?self => $servers->get($server), $known));
    }

    /** From now on the mailboxes of the workload are known to be here. */
    public function holds(Workload $workload): void
    {
        DB::table('mail_originals')->upsert(['workload_id' => $workload->id, 'server_id' => $this->id], ['workload_id'], ['server_id']);
    }

    /** @throws ImapFailure if there is no such mailbox, or it may not be opened */
    public function open(string $mailbox): ImapMailbox
    {
        if ($this->imap === '') {
            throw ImapFailure::unreachable($this->name, 'it is known for calendars and contacts only');
        }

        return ImapMailbox::open(ImapAddress::parse($this->imap), $this->user, $this->password, $this->accountOf($mailbox));
    }

    /** @throws DavFailure if it has no calendars and contacts, or they may not be opened */
    public function openDav(string $mailbox): DavHome
    {
        if ($this->dav === '') {
            throw DavFailure::unreachable($this->name, 'it is known for mail only');
        }

        return DavHome::open(DavAddress::parse($this->dav), $this->user, $this->password, $this->accountOf($mailbox));
    }

    /** The name that a mailbox of a set has on this server. */
    public function accountOf(string $mailbox): string
    {
        $parts = array_reverse(explode('/', $mailbox));

        return strtr($this->naming, ['{mailbox}' => $mailbox, '{name}' => $parts[0], '{above}' => $parts[1] ?? '']);
    }

    public static function sort(): string
    {
        return 'mail';
    }

    public function whereabouts(): string
    {
        $at = [
            $this->imap === '' ? null : ImapAddress::parse($this->imap)->words(),
            $this->dav === '' ? null : DavAddress::parse($this->dav)->words(),
        ];

        return "{$this->user} at ".implode(' and ', array_filter($at));
    }

    /** @return list<Workload> those whose mailboxes are here */
    public function originals(): array
    {
        return array_values(
            Workload::query()
                ->whereIn('id', DB::table('mail_originals')->where('server_id', $this->id)->select('workload_id'))
                ->get()
                ->all(),
        );
    }
}

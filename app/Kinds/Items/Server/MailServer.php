<?php

declare(strict_types=1);

namespace App\Kinds\Items\Server;

use App\Models\BelongsToGroups;
use App\Models\Target;
use App\Models\Workload;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Mail\Imap\ImapAddress;
use Kaiseki\Core\Mail\Imap\ImapFailure;
use Kaiseki\Core\Mail\Imap\ImapMailbox;

/**
 * A mail server that items are brought back to, by an account that may open every mailbox.
 *
 * @property int $id
 * @property string $name
 * @property string $imap see ImapAddress
 * @property string $user
 * @property string $password
 * @property string $naming the name of a mailbox there, with {mailbox}; or with {name} and {above}, the last part of it and the one before
 * @property string $site
 */
final class MailServer extends Model implements Target
{
    use BelongsToGroups;

    protected $guarded = [];

    protected $hidden = ['password'];

    protected function casts(): array
    {
        return ['password' => 'encrypted'];
    }

    /** The one that the mailboxes of a workload are on; null if that is not known. */
    public static function of(Workload $workload): ?self
    {
        return self::query()
            ->whereIn('id', DB::table('mail_originals')->where('workload_id', $workload->id)->select('server_id'))
            ->first();
    }

    /** From now on the mailboxes of the workload are known to be here. */
    public function holds(Workload $workload): void
    {
        DB::table('mail_originals')->upsert(['workload_id' => $workload->id, 'server_id' => $this->id], ['workload_id'], ['server_id']);
    }

    /** @throws ImapFailure if there is no such mailbox, or it may not be opened */
    public function open(string $mailbox): ImapMailbox
    {
        return ImapMailbox::open(ImapAddress::parse($this->imap), $this->user, $this->password, $this->accountOf($mailbox));
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
        return "{$this->user} at ".ImapAddress::parse($this->imap)->words();
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

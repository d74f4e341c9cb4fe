<?php

declare(strict_types=1);

namespace App\Kinds\Items\Server;

use App\Hosts\HostCommand;
use App\Instance;
use App\Kinds\Items\Order\CannotBringItems;
use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Imap\ImapFailure;

/**
 * A mailbox that is made on a server, and taken away again, by programs that whoever runs the server has put there: each reads the name of
 * the account, and gives it the rights and limits of its group, and a password that its owner must change. The desk holds none of these.
 */
final readonly class NewMailbox
{
    /** What belonged to the one before, in words. */
    public const LOST = 'rights and shares that others had on the one before, its rules, and where it forwarded to are to be given again';

    /** Seconds that such a program may take. */
    private const LIMIT = 120;

    /** So often it is looked whether it can be opened, each half a second. */
    private const LOOKS = 60;

    /** Of a name that is handed on: nothing that could be taken for an option, or end a line. */
    private const NAME = '/^[A-Za-z0-9][^\x00-\x20\x7f]{0,199}$/D';

    public function __construct(private MailServer $server, private string $mailbox)
    {
    }

    /**
     * And waits until it can be opened: servers look at their lists of accounts now and then.
     *
     * @throws CannotBringItems if it could not be made
     */
    public function make(): void
    {
        $this->run($this->server->makes ?? [], 'made');
        $words = AwaitedMailbox::words($this->server, $this->mailbox);
        for ($looks = 0; $looks < self::LOOKS && ! AwaitedMailbox::hasCome($this->server, $words); $looks++) {
            usleep(500_000);
        }
    }

    /**
     * @return string|null why it is left; null if it is gone
     *
     * @throws CannotBringItems if it could not be taken away
     */
    public function remove(): ?string
    {
        $why = match (true) {
            $this->server->unmakes === null => 'nobody said how such a mailbox is taken away: whoever runs the server can',
            ! $this->isEmpty() => 'something lies in it since',
            default => null,
        };
        $why !== null || $this->run($this->server->unmakes ?? [], 'taken away');

        return $why;
    }

    /** @param  list<string>  $command */
    private function run(array $command, string $what): void
    {
        $account = $this->server->accountOf($this->mailbox);
        preg_match(self::NAME, $account) === 1
            || throw CannotBringItems::because("$account cannot be the name of a mailbox that is $what.");
        $ran = HostCommand::run($what, $command, Instance::folder('tmp'), self::LIMIT, "$account\n");
        $ran->isRight() || throw CannotBringItems::because("The mailbox $account could not be $what: {$ran->lastLine()}");
    }

    private function isEmpty(): bool
    {
        try {
            return ($this->server->imap === '' || $this->holdsNoMail()) && ($this->server->dav === '' || $this->holdsNothingElse());
        } catch (DavFailure|ImapFailure) {
            return false; // nobody can say what lies in it
        }
    }

    private function holdsNoMail(): bool
    {
        $open = $this->server->open($this->mailbox);
        try {
            foreach ($open->folders() as $name => $folder) {
                if ($folder->isSelectable()) {
                    $open->select((string) $name);
                    if ($open->messages() !== []) {
                        return false;
                    }
                }
            }

            return true;
        } finally {
            $open->close();
        }
    }

    private function holdsNothingElse(): bool
    {
        $home = $this->server->openDav($this->mailbox);
        foreach ($home->collections() as $collection) {
            if ($home->etags($collection) !== []) {
                return false;
            }
        }

        return true;
    }
}

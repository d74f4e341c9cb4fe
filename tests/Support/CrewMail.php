<?php

declare(strict_types=1);

namespace Tests\Support;

use App\Kinds\Items\Server\MailServer as KnownServer;
use App\Models\Workload;
use Kaiseki\Core\Mail\Imap\ImapFolder;
use Kaiseki\Core\Mail\Imap\ImapMailbox;
use Kaiseki\Core\Mail\Imap\ImapMessage;
use Kaiseki\Core\Mail\Message;
use Kaiseki\StandIns\MailServer;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Tests\TestCase;

/** Mailboxes on a real server that live from a seed, the sets that are made of them, and what lay there when each was made. */
final class CrewMail
{
    public const ADA = 'ada@sorrel.example';

    public const BEN = 'ben@sorrel.example';

    public const SPARE = 'spare@sorrel.example';

    public const WORKLOAD = 'crew-mail';

    private const FOLDERS = ['INBOX', 'Sent', 'Trash', 'Projects/Dry dock', 'Übergabe'];

    private const FLAGS = [[], ['\Seen'], ['\Seen', '\Flagged'], ['\Answered', '\Seen', 'harbour'], ['\Draft']];

    public readonly MailServerAtWork $server;

    /** @var array<string, array<string, list<array{string, int, list<string>}>>> set => "mailbox/folder" => identity, received, flags */
    public array $then = [];

    private readonly Randomizer $random;

    private readonly MailSamples $samples;

    private int $received = 1_790_000_000;

    public function __construct(private readonly TestCase $test, int $seed)
    {
        $this->random = new Randomizer(new Xoshiro256StarStar($seed));
        $this->samples = new MailSamples($seed);
        $this->server = new MailServerAtWork([self::ADA => null, self::BEN => null, self::SPARE => null]);
    }

    /** A day in the life of two mailboxes: arrivals, flags, moves, deletions. */
    public function live(int $deeds): void
    {
        foreach ([self::ADA, self::BEN] as $name) {
            $mailbox = $this->server->open($name);
            for ($deed = 0; $deed < $deeds; $deed++) {
                $this->random->getInt(0, 9) < 6 ? $this->arrive($mailbox) : $this->change($mailbox);
            }
            $mailbox->close();
        }
    }

    public function arrive(ImapMailbox $mailbox, ?string $message = null, ?string $folder = null): int
    {
        $folder ??= $this->one(self::FOLDERS);
        in_array($folder, self::folders($mailbox), true) || $mailbox->create($folder);

        return (int) $mailbox->append($folder, $message ?? $this->samples->message(), $this->one(self::FLAGS), ++$this->received);
    }

    private function change(ImapMailbox $mailbox): void
    {
        $folder = $this->one(self::folders($mailbox));
        $mailbox->select($folder);
        $there = $mailbox->messages();
        if ($there === []) {
            return;
        }
        $message = $this->one($there);
        $bytes = '';
        $mailbox->read([$message->uid], function (int $uid, string $read) use (&$bytes): void {
            $bytes = $read;
        });
        $mailbox->remove([$message->uid]);
        if ($this->random->getInt(0, 2) > 0) { // moved, or with other flags; else deleted
            $to = $this->random->getInt(0, 1) === 0 ? $folder : $this->one(self::folders($mailbox));
            $mailbox->append($to, $bytes, $this->one(self::FLAGS), $message->receivedAt);
        }
    }

    /** @return string the set */
    public function protect(string $level): string
    {
        $arguments = Workload::query()->where('name', self::WORKLOAD)->exists() ? [] : ["--mail={$this->server->server->folder}/files"];
        $set = (string) $this->test->told(0, 'protect', self::WORKLOAD, "--level=$level", ...$arguments)['set'];
        $this->then[$set] = $this->now(self::ADA) + $this->now(self::BEN);
        sleep(1); // a set is named by its second

        return $set;
    }

    /** The desk knows the server from now on. */
    public function known(?int $port = null): KnownServer
    {
        $port ??= $this->server->server->port;
        $server = KnownServer::query()->create([
            'name' => 'crew',
            'imap' => "imap://127.0.0.1:$port",
            'user' => MailServer::MASTER,
            'password' => $this->server->server->masterPassword(),
            'naming' => '{mailbox}',
        ]);
        $server->holds(Workload::query()->where('name', self::WORKLOAD)->firstOrFail());

        return $server;
    }

    /**
     * What lies in a mailbox now.
     *
     * @return array<string, list<array{string, int, list<string>}>> "mailbox/folder" => identity, received, flags; none for empty ones
     */
    public function now(string $mailbox, string $as = ''): array
    {
        $open = $this->server->open($mailbox);
        $there = [];
        foreach (self::folders($open) as $folder) {
            $open->select($folder);
            $messages = [];
            foreach ($open->messages() as $message) {
                $messages[$message->uid] = $message;
            }
            $all = [];
            $open->read(array_keys($messages), function (int $uid, string $bytes) use ($messages, &$all): void {
                $all[] = [bin2hex(Message::identityOf($bytes)), $messages[$uid]->receivedAt, self::sorted($messages[$uid])];
            });
            sort($all);
            $there += $all === [] ? [] : [($as === '' ? $mailbox : $as)."/$folder" => $all];
        }
        $open->close();

        return $there;
    }

    /** @return non-empty-list<string> those in which messages can lie */
    private static function folders(ImapMailbox $mailbox): array
    {
        $folders = array_filter($mailbox->folders(), fn (ImapFolder $folder): bool => $folder->isSelectable());

        return array_map(strval(...), array_keys($folders)) ?: ['INBOX'];
    }

    /** @return list<string> */
    private static function sorted(ImapMessage $message): array
    {
        $flags = $message->flags;
        sort($flags);

        return $flags;
    }

    /**
     * Each message once in each folder, as a restore brings them: two that are the same lie there as one.
     *
     * @param  array<string, list<array{string, int, list<string>}>>  $there
     * @return array<string, list<string>>
     */
    public static function distinct(array $there): array
    {
        return array_map(fn (array $all): array => array_values(array_unique(array_column($all, 0))), $there);
    }

    /**
     * @template T
     *
     * @param  non-empty-list<T>  $from
     * @return T
     */
    private function one(array $from): mixed
    {
        return $from[$this->random->getInt(0, count($from) - 1)];
    }
}

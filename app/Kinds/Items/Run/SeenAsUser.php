<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Order\CannotBringItems;
use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Items\Server\MailServer;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Words;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Mail\Dav\DavAddress;
use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Dav\DavHome;
use Kaiseki\Core\Mail\Imap\ImapAddress;
use Kaiseki\Core\Mail\Imap\ImapFailure;
use Kaiseki\Core\Mail\Imap\ImapMailbox;
use Kaiseki\Core\Mail\Message;
use Kaiseki\Core\Proof\CheckLine;
use SensitiveParameter;

/**
 * Signs in as the person whose mailbox it is, by a password that they give for this once, and looks whether what a run laid is there as
 * they see it. The desk's own account sees every mailbox; that somebody sees theirs is another thing. The password is kept nowhere.
 */
final class SeenAsUser
{
    /** @var list<CheckLine> */
    private array $lines = [];

    private function __construct(
        private readonly Run $run,
        private readonly MailServer $server,
        private readonly string $account,
        #[SensitiveParameter] private readonly string $password,
    ) {
    }

    /** The one mailbox that a run laid something into, as its set names it; null where there is none, or several. */
    public static function mailboxOf(Run $run): ?string
    {
        if ($run->state !== 'done' || $run->put_back_at !== null || ! ItemsOrder::fromArray($run->plan)->isToServer()) {
            return null;
        }
        $names = [];
        foreach ([...(new MailJournal($run))->laid, ...(new CollectionJournal($run))->laid] as $laid) {
            $names[$laid->mailbox] = true;
        }

        return count($names) === 1 ? (string) array_key_first($names) : null;
    }

    /**
     * Looks, and adds what was seen to the proof of the run.
     *
     * @return list<CheckLine>
     *
     * @throws CannotBringItems if they cannot sign in, or there is nothing to look for
     */
    public static function look(Run $run, User $by, #[SensitiveParameter] string $password): array
    {
        $mailbox = self::mailboxOf($run) ?? throw CannotBringItems::because('This run laid nothing into one mailbox alone.');
        $order = ItemsOrder::fromArray($run->plan);
        $server = $order->mailServer();
        $seen = new self($run, $server, $server->accountOf($mailbox), $password);
        $seen->messages((new MailJournal($run))->laid);
        $seen->objects((new CollectionJournal($run))->laid);
        $seen->keep($order, $by);

        return $seen->lines;
    }

    /** @param  array<string, LaidItem>  $laid */
    private function messages(array $laid): void
    {
        if ($laid === []) {
            return;
        }
        try {
            $open = ImapMailbox::open(ImapAddress::parse($this->server->imap), $this->account, $this->password);
        } catch (ImapFailure $failure) {
            throw CannotBringItems::because("Signing in as {$this->account} did not succeed: {$failure->getMessage()}");
        }
        try {
            $folders = $open->folders();
            foreach (self::byFolder($laid) as $folder => $items) {
                $there = isset($folders[$folder]) && $folders[$folder]->isSelectable() ? self::there($open, (string) $folder, $items) : 0;
                $this->line((string) $folder, $there, count($items), 'message');
            }
        } catch (ImapFailure $failure) {
            throw CannotBringItems::because($failure->getMessage());
        } finally {
            $open->close();
        }
    }

    /**
     * @param  array<string, LaidItem>  $laid
     * @return array<string, non-empty-list<LaidItem>> folder => what was laid into it
     */
    private static function byFolder(array $laid): array
    {
        $folders = [];
        foreach ($laid as $item) {
            $folders[$item->folder][] = $item;
        }

        return $folders;
    }

    /**
     * @param  list<LaidItem>  $items
     * @return int how many of them are there, by digest
     */
    private static function there(ImapMailbox $open, string $folder, array $items): int
    {
        $open->select($folder);
        $wanted = [];
        foreach ($items as $item) {
            $wanted[$item->uid] = explode("\0", $item->key)[0];
        }
        $there = 0;
        $open->read(array_keys($wanted), function (int $uid, string $bytes) use ($wanted, &$there): void {
            $there += bin2hex(Message::identityOf($bytes)) === ($wanted[$uid] ?? '') ? 1 : 0;
        });

        return $there;
    }

    /** @param  array<string, LaidObject>  $laid */
    private function objects(array $laid): void
    {
        if ($laid === []) {
            return;
        }
        try {
            $home = DavHome::open(DavAddress::parse($this->server->dav), $this->account, $this->password, $this->account);
            foreach ($home->collections() as $collection) {
                $wanted = array_filter($laid, fn (LaidObject $one): bool => $one->collection === $collection->href);
                $there = [];
                foreach ($wanted === [] ? [] : $home->entries($collection) as $entry) {
                    $there[$entry->href] = $entry->bytes;
                }
                $right = array_filter($wanted, fn (LaidObject $one): bool => isset($there[$one->href]) &&
                    $one->sort->identityOf($there[$one->href]) === $one->identity);
                $wanted === [] || $this->line($collection->name(), count($right), count($wanted), 'thing');
                $laid = array_diff_key($laid, $wanted);
            }
        } catch (DavFailure $failure) {
            throw CannotBringItems::because("Signing in as {$this->account} did not succeed: {$failure->getMessage()}");
        }
        $laid === [] || $this->line('their calendars and contacts', 0, count($laid), 'thing');
    }

    private function line(string $where, int $there, int $wanted, string $noun): void
    {
        $what = "what lies in $where, as {$this->account} sees it";
        $this->lines[] = CheckLine::of($what, $there === $wanted, "$there of ".Words::count($wanted, $noun));
    }

    private function keep(ItemsOrder $order, User $by): void
    {
        DB::transaction(function () use ($order, $by): void {
            $run = Run::query()->lockForUpdate()->findOrFail($this->run->id);
            $seen = ['at' => now()->toIso8601ZuluString(), 'account' => $this->account, 'by' => $by->name];
            $outcome = ['seen_as_user' => $seen + ['checks' => CheckLine::kept($this->lines)]] + ($run->outcome ?? []);
            $run->update(['outcome' => $outcome]);
            ItemsProof::write($run, $order, $outcome);
            $words = CheckLine::wrong($this->lines) === [] ? 'all of it is there' : 'not all of it is there';
            $what = "Signed in as {$this->account} on {$this->server->name}, by a password that {$by->name} gave for this once, to see ".
                "what run {$run->id} laid: $words.";
            TrailEntry::add($what, $run->request, $by, $run, TrailSort::Content);
        });
    }
}

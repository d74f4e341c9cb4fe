<?php

declare(strict_types=1);

namespace App\Kinds\Items\Live;

use App\Kinds\Items\Server\MailServer;
use Kaiseki\Core\Mail\Imap\ImapFolder;
use Kaiseki\Core\Mail\Imap\ImapLink;
use Kaiseki\Core\Mail\Imap\ImapMailbox;
use Kaiseki\Core\Mail\Imap\ImapMessage;
use Kaiseki\Core\Mail\MaildirName;

/**
 * The messages of a mailbox as a Maildir: a file each, called by the number that its server gave it. A number means the same message for as
 * long as the server does not number its folder anew (RFC 3501, section 2.3.1.1).
 */
final class MailboxMirror
{
    private const AT_ONCE = 100;

    private const NAME = '/^\d+\.U(\d+)_(\d+)\.imap:2,[A-Za-z]*$/D';

    private const KEYWORDS = 'dovecot-keywords';

    private const MOST_KEYWORDS = 26;

    /** @var array<string, string> keyword => letter, of the folder at hand */
    private array $letters = [];

    public function __construct(private readonly Mirror $mirror, private readonly MailServer $server, private readonly string $mailbox)
    {
    }

    public function bringUpToDate(): void
    {
        $open = $this->server->open($this->mailbox);
        $kept = [];
        foreach (array_filter($open->folders(), fn (ImapFolder $of): bool => $of->isSelectable()) as $name => $of) {
            $path = MirrorPath::ofFolder($this->mailbox, (string) $name);
            if ($path === null) {
                $this->mirror->remark("The folder $name of {$this->mailbox} is not in it: no path can be called so.");
            } else {
                $kept[$path] = true;
                $this->folder($open, (string) $name, $path);
            }
        }
        $open->close();
        $this->forget(MirrorPath::maildir($this->mailbox), $kept);
    }

    private function folder(ImapMailbox $open, string $name, string $path): void
    {
        $validity = $open->select($name);
        $there = $this->there($path);
        $isAnew = $there !== [] && ! isset($there[$validity]);
        if ($isAnew) {
            $this->mirror->remark("$name of {$this->mailbox} was numbered anew by its server, and was read as a whole.");
        }
        $this->letters = array_flip(MaildirName::meanings((string) $this->mirror->content("$path/".self::KEYWORDS)));
        $this->mirror->folder("$path/cur");
        $known = $there[$validity] ?? [];
        $new = $wanted = [];
        foreach ($open->messages() as $message) {
            if ($message->size > ImapLink::LARGEST) {
                $this->mirror->remark("A message of {$this->mailbox}, $name is larger than any that is read, and is not in it.");
            } elseif (isset($known[$message->uid])) {
                $this->flag($path, $known[$message->uid], $message, $validity);
                unset($known[$message->uid]);
            } else {
                $new[] = $message->uid;
                $wanted[$message->uid] = $message;
            }
        }
        foreach (array_chunk($new, self::AT_ONCE) as $some) {
            $open->read($some, function (int $uid, string $bytes) use ($path, $wanted, $validity): void {
                if (isset($wanted[$uid])) {
                    $message = $wanted[$uid];
                    $this->mirror->write("$path/cur/{$this->nameOf($path, $message, $validity)}", $bytes, $message->receivedAt);
                    $this->mirror->read++;
                }
            });
        }
        foreach ([...array_values($known), ...array_merge([], ...array_values(array_diff_key($there, [$validity => true])))] as $gone) {
            $this->mirror->remove("$path/cur/$gone");
        }
    }

    /** @return array<int, array<int, string>> UIDVALIDITY => UID => name of the file */
    private function there(string $path): array
    {
        $there = [];
        foreach ($this->mirror->names("$path/cur") as $name) {
            if (preg_match(self::NAME, $name, $m) === 1) {
                $there[(int) $m[1]][(int) $m[2]] = $name;
            }
        }

        return $there;
    }

    private function flag(string $path, string $was, ImapMessage $message, int $validity): void
    {
        $is = $this->nameOf($path, $message, $validity);
        if ($is !== $was) {
            $this->mirror->rename("$path/cur/$was", "$path/cur/$is");
        }
    }

    private function nameOf(string $path, ImapMessage $message, int $validity): string
    {
        $flags = array_keys(array_intersect(MaildirName::FLAGS, $message->flags));
        foreach (array_diff($message->flags, MaildirName::FLAGS) as $keyword) {
            $letter = $this->letter($path, $keyword);
            array_push($flags, ...($letter === null ? [] : [$letter]));
        }
        sort($flags); // capitals before small letters, each in their order (common practice)

        return "{$message->receivedAt}.U{$validity}_{$message->uid}.imap:2,".implode('', $flags);
    }

    /** The letter that stands for a keyword in this folder; null if there is none any more. */
    private function letter(string $path, string $keyword): ?string
    {
        if (! isset($this->letters[$keyword]) && MaildirName::isKeyword($keyword) && count($this->letters) < self::MOST_KEYWORDS) {
            $this->letters[$keyword] = chr(ord('a') + count($this->letters));
            $lines = '';
            foreach (array_keys($this->letters) as $number => $of) {
                $lines .= "$number $of\n";
            }
            $this->mirror->write("$path/".self::KEYWORDS, $lines);
        }
        if (! isset($this->letters[$keyword])) {
            $this->mirror->remark("The keyword $keyword of {$this->mailbox} is not in it: a folder keeps ".self::MOST_KEYWORDS.' of them.');
        }

        return $this->letters[$keyword] ?? null;
    }

    /**
     * Folders that the server has not any more.
     *
     * @param  array<string, true>  $kept
     */
    private function forget(string $path, array $kept): void
    {
        foreach ($this->mirror->names($path) as $name) {
            if ($name === 'cur' || $name === self::KEYWORDS) {
                isset($kept[$path]) || $this->mirror->remove("$path/$name");
            } else {
                $this->forget("$path/$name", $kept);
            }
        }
        $isKept = array_filter(array_keys($kept), fn (string $one): bool => $one === $path || str_starts_with($one, "$path/")) !== [];
        $isKept || $this->mirror->remove($path);
    }
}

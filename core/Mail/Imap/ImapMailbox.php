<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Imap;

use Closure;
use InvalidArgumentException;
use Kaiseki\Core\Mail\MaildirName;
use Kaiseki\Core\Mail\Message;

/**
 * One mailbox of a mail server, signed in to. Names of folders are UTF-8 with "/" between a folder and one below it, whatever the server
 * has there.
 */
final class ImapMailbox
{
    /** Of messages asked for at once. */
    private const AT_ONCE = 500;

    private const SYSTEM_FLAGS = ['\Seen', '\Answered', '\Flagged', '\Deleted', '\Draft'];

    private string $selected = '';

    private string $separator = '/';

    private int $validity = 0;

    private int $next = 1;

    /** @var array<string, true> what it is able to do, in capitals */
    private array $abilities = [];

    private function __construct(private readonly ImapLink $link)
    {
    }

    /**
     * @param  string  $as  whose mailbox is opened by an account that may; '' for the account's own
     *
     * @throws ImapFailure
     */
    public static function open(ImapAddress $at, string $user, #[\SensitiveParameter] string $password, string $as = ''): self
    {
        $mailbox = new self(new ImapLink($at));
        $mailbox->link->order('AUTHENTICATE PLAIN '.base64_encode("$as\0$user\0$password"), 'the sign-in');
        $mailbox->link->order('CAPABILITY', 'to say what it is able to do', function (string $line) use ($mailbox): void {
            if (str_starts_with($line, '* CAPABILITY ')) {
                $mailbox->abilities = array_fill_keys(explode(' ', strtoupper(substr($line, 13))), true);
            }
        });

        return $mailbox;
    }

    public function close(): void
    {
        $this->link->close();
    }

    public function isAbleTo(string $ability): bool
    {
        return isset($this->abilities[$ability]);
    }

    /** @return array<string, ImapFolder> name => folder */
    public function folders(): array
    {
        $folders = [];
        $this->link->order('LIST "" "*"', 'its list of folders', function (string $line, array $literals) use (&$folders): void {
            if (preg_match('/^\* LIST \(([^)]*)\) ("(?:\\\\.|[^"])"|NIL) (.+)$/s', $line, $m) === 1) {
                $separator = $m[2] === 'NIL' ? '' : stripslashes(trim($m[2], '"'));
                $raw = self::word($m[3], $literals);
                $name = (string) mb_convert_encoding($raw, 'UTF-8', 'UTF7-IMAP');
                $name = $separator === '' || $separator === '/' ? $name : str_replace($separator, '/', $name);
                $folders[$name] = new ImapFolder($name, $separator, array_filter(explode(' ', strtolower($m[1]))));
                $this->separator = $separator === '' ? $this->separator : $separator;
            }
        });
        ksort($folders);

        return $folders;
    }

    /** Makes a folder, and those above it that are missing. */
    public function create(string $folder): void
    {
        $this->link->order('CREATE '.$this->named($folder), 'to make the folder '.$folder);
        $this->link->order('SUBSCRIBE '.$this->named($folder), 'to subscribe to the folder '.$folder);
    }

    /** Takes a folder away that nothing lies in. */
    public function delete(string $folder): void
    {
        $this->leave();
        $this->link->order('UNSUBSCRIBE '.$this->named($folder), 'to unsubscribe from the folder '.$folder);
        $this->link->order('DELETE '.$this->named($folder), 'to take the folder away: '.$folder);
    }

    /** @return int its UIDVALIDITY (RFC 3501, section 2.3.1.1): another one means that no UID of before is known any more */
    public function select(string $folder): int
    {
        $name = $this->named($folder);
        $this->selected = '';
        $this->link->order("SELECT $name", 'to open the folder '.$folder, function (string $line): void {
            if (preg_match('/\[UIDVALIDITY (\d+)\]/', $line, $m) === 1) {
                $this->validity = (int) $m[1];
            } elseif (preg_match('/\[UIDNEXT (\d+)\]/', $line, $m) === 1) {
                $this->next = (int) $m[1];
            }
        });
        $this->selected = $folder;

        return $this->validity;
    }

    /** The least UID that the next message of the selected folder can have, as it was when it was selected. */
    public function nextUid(): int
    {
        return $this->next;
    }

    /**
     * What lies in the selected folder.
     *
     * @return list<ImapMessage> by UID
     */
    public function messages(int $fromUid = 1): array
    {
        $messages = [];
        $this->link->order(
            "UID FETCH $fromUid:* (UID FLAGS INTERNALDATE RFC822.SIZE BODY.PEEK[HEADER.FIELDS (MESSAGE-ID)])",
            'to say what lies in the folder',
            function (string $line, array $literals) use (&$messages, $fromUid): void {
                $message = self::fetched($line, $literals);
                if ($message !== null && $message->uid >= $fromUid) { // "9:*" gives the last one even if it is before 9
                    $messages[$message->uid] = $message;
                }
            },
        );
        ksort($messages);

        return array_values($messages);
    }

    /**
     * The bytes of messages of the selected folder.
     *
     * @param  list<int>  $uids
     * @param  Closure(int, string): void  $each  told UID and bytes
     */
    public function read(array $uids, Closure $each): void
    {
        foreach (array_chunk($uids, self::AT_ONCE) as $some) {
            $this->link->order(
                'UID FETCH '.implode(',', $some).' (UID BODY.PEEK[])',
                'to give messages out',
                function (string $line, array $literals) use ($each): void {
                    $isOne = preg_match('/^\* \d+ FETCH .*\bUID (\d+)/s', $line, $m) === 1;
                    if ($isOne && preg_match('/BODY\[\] \0(\d+)\0/', $line, $at) === 1) {
                        $each((int) $m[1], $literals[(int) $at[1]] ?? '');
                    }
                },
            );
        }
    }

    /**
     * Lays a message into a folder.
     *
     * @param  list<string>  $flags
     * @param  int  $receivedAt  seconds since 1970
     * @return int|null its UID (RFC 4315); null if the server does not tell it
     */
    public function append(string $folder, string $message, array $flags, int $receivedAt): ?int
    {
        foreach ($flags as $flag) {
            // One that is none would make the server take the message for orders.
            if (! in_array($flag, self::SYSTEM_FLAGS, true) && ! MaildirName::isKeyword($flag)) {
                throw new InvalidArgumentException("\"$flag\" is no flag.");
            }
        }
        $wide = (string) preg_replace('/\r?\n/', "\r\n", $message);
        $answer = $this->link->orderWith(
            'APPEND '.$this->named($folder).' ('.implode(' ', $flags).') "'.gmdate('d-M-Y H:i:s', $receivedAt).' +0000"',
            $wide,
            $this->isAbleTo('LITERAL+'),
            'a message',
        );

        return preg_match('/\[APPENDUID \d+ (\d+)\]/', $answer, $m) === 1 ? (int) $m[1] : null;
    }

    /**
     * Takes messages of the selected folder away for good, and no other that is marked as deleted (RFC 4315).
     *
     * @param  list<int>  $uids
     */
    public function remove(array $uids): void
    {
        foreach (array_chunk($uids, self::AT_ONCE) as $some) {
            $list = implode(',', $some);
            $this->link->order("UID STORE $list +FLAGS.SILENT (\\Deleted)", 'to take messages away');
            $this->link->order("UID EXPUNGE $list", 'to take messages away');
        }
    }

    /**
     * Bytes that are stored, and that may be, of the whole mailbox.
     *
     * @return array{int, int}|null null if it has no limit that is told (RFC 9208)
     */
    public function storage(): ?array
    {
        $storage = null;
        if ($this->isAbleTo('QUOTA')) {
            $this->link->order('GETQUOTAROOT INBOX', 'to say how much room there is', function (string $line) use (&$storage): void {
                if (preg_match('/^\* QUOTA .*\bSTORAGE (\d+) (\d+)/', $line, $m) === 1) {
                    $storage = [(int) $m[1] * 1024, (int) $m[2] * 1024];
                }
            });
        }

        return $storage;
    }

    /** Leaves the selected folder as it is. */
    private function leave(): void
    {
        if ($this->selected !== '' && $this->isAbleTo('UNSELECT')) {
            $this->link->order('UNSELECT', 'to leave the folder');
            $this->selected = '';
        }
    }

    private function named(string $folder): string
    {
        if (preg_match('/[\x00-\x1f\x7f]/', $folder) === 1 || ! mb_check_encoding($folder, 'UTF-8') || strlen($folder) > 1_000) {
            throw new InvalidArgumentException('The name of a folder has at most 1000 characters, and no control characters.');
        }
        $name = $this->separator === '/' ? $folder : str_replace('/', $this->separator, $folder);

        return ImapLink::quoted((string) mb_convert_encoding($name, 'UTF7-IMAP', 'UTF-8'));
    }

    /** @param  list<string>  $literals */
    private static function word(string $text, array $literals): string
    {
        $text = trim($text);
        if (preg_match('/^\0(\d+)\0$/', $text, $m) === 1) {
            return $literals[(int) $m[1]] ?? '';
        }

        return str_starts_with($text, '"') ? stripslashes(substr($text, 1, -1)) : $text;
    }

    /** @param  list<string>  $literals */
    private static function fetched(string $line, array $literals): ?ImapMessage
    {
        if (
            preg_match('/^\* \d+ FETCH \(/', $line) !== 1 ||
            preg_match('/\bUID (\d+)/', $line, $uid) !== 1 ||
            preg_match('/\bFLAGS \(([^)]*)\)/', $line, $flags) !== 1 ||
            preg_match('/\bINTERNALDATE "([^"]+)"/', $line, $date) !== 1
        ) {
            return null; // flags that somebody else changed just now are told in between
        }
        $headers = preg_match('/HEADER\.FIELDS[^\]]*\] \0(\d+)\0/', $line, $at) === 1 ? $literals[(int) $at[1]] ?? '' : '';

        return new ImapMessage(
            (int) $uid[1],
            array_values(array_filter(explode(' ', $flags[1]), fn (string $flag): bool => $flag !== '' && $flag !== '\Recent')),
            (int) strtotime($date[1]),
            preg_match('/\bRFC822\.SIZE (\d+)/', $line, $size) === 1 ? (int) $size[1] : 0,
            Message::of($headers)->messageId(),
        );
    }
}

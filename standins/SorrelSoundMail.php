<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use DateTimeImmutable;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Symfony\Component\Process\Process;

/**
 * The mailboxes of Sorrel Sound Ferries, as Maildir: what twelve people write, read, move and delete, day by day, from a seed. Two things
 * go wrong: somebody leaves, and the offer of a yard is thrown away.
 */
final class SorrelSoundMail
{
    public const DOMAIN = 'sorrelsound.example';

    /** First part of the address => name. */
    public const PEOPLE = [
        'purser' => 'Greta Holm', 'harbour' => 'Willem Quist', 'crew.office' => 'Una Thorne', 'oona' => 'Oona Brandt',
        'milo' => 'Milo Aske', 'bram' => 'Bram Nyland', 'engine.room' => 'Leif Ulrik', 'slips' => 'Kaja Wick',
        'tickets' => 'Hugo Fenn', 'accounts' => 'Vera Yarrow', 'masters' => 'Per Strand', 'galley' => 'Søren Joss',
    ];

    /** Who leaves, and after how many days. */
    public const LEAVER = 'bram';

    public const LEAVES_ON = 33;

    /** The message that is thrown away, where it lay, and the days on which it comes and goes. */
    public const OFFER = 'Dry dock in March: our offer for the Dunlin';

    public const OFFER_COMES_ON = 25;

    public const OFFER_GOES_ON = 38;

    private const OUTSIDE = [
        'Inés Arrieta' => 'yard@westwick-slips.example', 'Jonas Kell' => 'office@gull-ness-pilots.example',
        'Łucja Dąbrowska' => 'claims@low-skerry-mutual.example', 'Élodie Marchand' => 'sales@bunker-point.example',
        'Tidal Survey' => 'tables@tidal-survey.example', '田中 花' => 'hana@harbour-twins.example',
    ];

    private const TOPICS = [
        'Berth plan', 'Crane inspection', 'Pilot roster', 'Tide tables', 'Fuel invoice', 'Mooring lines', 'Quay wall survey',
        'Winter storage', 'Safety drill', 'Slipway booking', 'Radio check', 'Ticket rolls', 'Réunion d’équipe', 'Übergabe Schlüssel',
        'Life jackets', 'Galley stores', 'Gangway wheels', 'Lost property',
    ];

    private const DEEDS = ['move', 'check', 'confirm', 'postpone', 'approve', 'send', 'replace', 'measure', 'sign', 'book'];

    private const THINGS = [
        'the mooring at berth %d', 'crane no. %d', 'the invoice %d', 'the roster for week %d', 'the pump in shed %d', 'the key cabinet %d',
        'buoy %d', 'pontoon %d', 'the winch of slip %d', 'locker %d',
    ];

    private const WHEN = ['on Monday', 'before noon', 'after the tide turns', 'next week', 'by Friday', 'this afternoon', 'at 07:30'];

    private const FOLDERS = ['Archive', 'Projects/Slipway', 'Projects/Winter timetable'];

    private const DAY = 86_400;

    private readonly Randomizer $random;

    private int $serial = 0;

    private bool $hasLeft = false;

    /** @var array<string, string> path of a message's file => what it is about; those that may still be moved */
    private array $lying = [];

    /** @var array<string, int> path in a folder of deleted things => since when */
    private array $deleted = [];

    public function __construct(private readonly string $root, int $seed = 1861)
    {
        $this->random = new Randomizer(new Xoshiro256StarStar($seed));
    }

    /** Everything that had piled up before the first day. */
    public function begin(DateTimeImmutable $day): void
    {
        for ($thread = 0; $thread < 620; $thread++) {
            $this->thread($day->getTimestamp() - $this->between(1, 200) * self::DAY, $day->getTimestamp());
        }
    }

    /** A day until its midnight. */
    public function live(DateTimeImmutable $day, int $number): void
    {
        $from = $day->getTimestamp();
        $this->purge($from);
        $this->tidy($from);
        for ($thread = $this->between(4, 9); $thread > 0; $thread--) {
            $this->thread($from + $this->between(0, 9) * 3600, $from + self::DAY);
        }
        match ($number) {
            self::OFFER_COMES_ON => $this->offer($from + 36_000),
            self::OFFER_GOES_ON => $this->throwAway(self::OFFER),
            self::LEAVES_ON => $this->leave(),
            default => null,
        };
    }

    /** Somebody leaves, and the mailbox with them. */
    private function leave(): void
    {
        $this->hasLeft = true;
        (new Process(['rm', '-rf', $this->root.'/'.self::address(self::LEAVER)]))->mustRun();
    }

    public static function address(string $person): string
    {
        return "$person@".self::DOMAIN;
    }

    private function thread(int $at, int $until): void
    {
        $subject = $this->one(self::TOPICS).' '.$this->between(1, 60);
        $people = $this->some(array_keys(self::PEOPLE), $this->between(2, 4));
        $outside = $this->between(0, 9) < 5 ? $this->some(array_keys(self::OUTSIDE), 1) : [];
        $parent = null;
        $quoted = '';
        for ($turn = $this->between(1, 5); $turn > 0 && $at < $until; $turn--) {
            $from = $this->one([...$people, ...$outside]);
            $text = $this->paragraph();
            $title = $parent === null ? $subject : "Re: $subject";
            $message = $this->message($from, [...$people, ...$outside], $title, $at, $parent, $text, $quoted);
            foreach ($people as $person) {
                $this->deliver($person, $person === $from ? 'Sent' : 'INBOX', $message[1], $at);
            }
            [$parent, $quoted] = [$message[0], $text];
            $at += $this->between(900, 2 * self::DAY);
        }
    }

    /**
     * @param  list<string>  $all
     * @return array{string, string} Message-ID and bytes
     */
    private function message(string $from, array $all, string $subject, int $at, ?string $parent, string $text, string $quoted): array
    {
        $id = sprintf('%06d.%d@%s', ++$this->serial, $at, self::DOMAIN);
        $to = array_values(array_filter($all, fn (string $person): bool => $person !== $from));
        $head = 'From: '.self::named($from)."\r\nTo: ".implode(",\r\n ", array_map(self::named(...), $to)).
            "\r\nSubject: ".self::encoded($subject)."\r\nDate: ".gmdate('D, j M Y H:i:s', $at)." +0000\r\nMessage-ID: <$id>\r\n".
            ($parent === null ? '' : "In-Reply-To: <$parent>\r\nReferences: <$parent>\r\n")."MIME-Version: 1.0\r\n";
        $body = "$text\n\n".($quoted === '' ? '' : preg_replace('/^/m', '> ', $quoted)."\n\n")."-- \n".self::name($from)."\n";

        return [$id, $head.$this->content($body)];
    }

    private function content(string $body): string
    {
        $plain = "Content-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n".
            quoted_printable_encode(str_replace("\n", "\r\n", $body));
        $kind = $this->between(0, 99);
        if ($kind < 55) {
            return $plain;
        }
        $boundary = 'sorrel-'.bin2hex($this->random->getBytes(9));
        if ($kind < 86) {
            $html = '<html><body style="font-family:serif"><p>'.str_replace("\n", '<br>', htmlspecialchars($body)).'</p></body></html>';

            return "Content-Type: multipart/alternative; boundary=\"$boundary\"\r\n\r\n--$boundary\r\n$plain\r\n--$boundary\r\n".
                "Content-Type: text/html; charset=utf-8\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n".
                quoted_printable_encode($html)."\r\n--$boundary--\r\n";
        }
        [$name, $type, $bytes] = $this->attachment();

        return "Content-Type: multipart/mixed; boundary=\"$boundary\"\r\n\r\n--$boundary\r\n$plain\r\n--$boundary\r\n".
            "Content-Type: $type\r\nContent-Transfer-Encoding: base64\r\nContent-Disposition: attachment; filename=\"$name\"\r\n\r\n".
            chunk_split(base64_encode($bytes))."--$boundary--\r\n";
    }

    /** @return array{string, string, string} name, type, bytes */
    private function attachment(): array
    {
        $number = $this->between(1, 99);

        return $this->between(0, 1) === 0
            ? ["hours-$number.csv", 'text/csv', "day;person;hours\r\n".implode("\r\n", array_map(
                fn (): string => $this->between(1, 28).';'.$this->one(array_keys(self::PEOPLE)).';'.$this->between(4, 10),
                range(1, 20),
            ))."\r\n"]
            : ["drawing-$number.bin", 'application/octet-stream', $this->random->getBytes($this->between(2_000, 9_000))];
    }

    /** What the yard offers, as it writes: with its picture inside, and one that it would have fetched. */
    private function offer(int $at): void
    {
        $id = 'offer-dunlin@westwick-slips.example';
        $image = imagecreatetruecolor(220, 48);
        assert($image !== false);
        imagefilledrectangle($image, 0, 0, 220, 48, (int) imagecolorallocate($image, 47, 63, 143));
        imagestring($image, 5, 34, 16, 'Westwick Slips', (int) imagecolorallocate($image, 250, 247, 242));
        ob_start();
        imagepng($image);
        $png = (string) ob_get_clean();
        $html = '<html><body><p><img src="cid:sign@westwick" alt="Westwick Slips">'.
            '<img src="https://pixel.westwick-slips.example/seen?id=7"></p><p>Dear Mrs Holm,</p>'.
            '<p>for ten days in our dry dock from 2 March we ask <b>184,500</b> for the Dunlin: hull, both shafts, anodes, '.
            'and the starboard bow thruster. Scaffolding is in it, steel by weight is not.</p><table><tr><th>Part</th><th>Price</th></tr>'.
            '<tr><td>Docking and undocking</td><td>41,000</td></tr><tr><td>Ten days on the blocks</td><td>63,500</td></tr>'.
            '<tr><td>Shafts and anodes</td><td>80,000</td></tr></table><p>The offer stands until the end of the month.</p>'.
            '<script>document.title = "seen"</script><p>Inés Arrieta</p></body></html>';
        $csv = "part;days;price\r\ndocking;1;41000\r\nblocks;10;63500\r\nshafts;6;80000\r\n";
        $head = 'From: '.self::named('Inés Arrieta')."\r\nTo: ".self::named('purser')."\r\nSubject: ".self::encoded(self::OFFER).
            "\r\nDate: ".gmdate('D, j M Y H:i:s', $at)." +0000\r\nMessage-ID: <$id>\r\nMIME-Version: 1.0\r\n";
        $message = "{$head}Content-Type: multipart/mixed; boundary=\"o\"\r\n\r\n--o\r\n".
            "Content-Type: multipart/related; boundary=\"r\"\r\n\r\n--r\r\nContent-Type: text/html; charset=utf-8\r\n".
            "Content-Transfer-Encoding: quoted-printable\r\n\r\n".quoted_printable_encode($html).
            "\r\n--r\r\nContent-Type: image/png\r\nContent-Transfer-Encoding: base64\r\n".
            "Content-ID: <sign@westwick>\r\n\r\n".chunk_split(base64_encode($png))."--r--\r\n--o\r\nContent-Type: text/csv\r\n".
            "Content-Transfer-Encoding: base64\r\nContent-Disposition: attachment; filename=\"offer-dunlin.csv\"\r\n\r\n".
            chunk_split(base64_encode($csv))."--o--\r\n";
        $this->deliver('purser', 'INBOX', $message, $at);
    }

    private function deliver(string $person, string $folder, string $message, int $at): void
    {
        if ($this->hasLeft && $person === self::LEAVER) {
            return;
        }
        $flags = $folder === 'Sent' || $this->between(0, 9) < 9 ? 'S' : '';
        $name = sprintf('%d.M%06dP1.crew-mail:2,%s', $at, $this->random->getInt(0, 999_999), $flags);
        $path = $this->lay($person, $folder, $name, $message, $at);
        $subject = preg_match('/^Subject: (.*)$/m', $message, $m) === 1 ? trim($m[1]) : '';
        if ($folder === 'INBOX') {
            $this->lying[$path] = $subject;
        }
    }

    private function lay(string $person, string $folder, string $name, string $message, int $at): string
    {
        $path = $this->folder($person, $folder)."/cur/$name";
        foreach (['cur', 'new', 'tmp'] as $part) {
            is_dir(dirname($path, 2)."/$part") || mkdir(dirname($path, 2)."/$part", 0700, true);
        }
        file_put_contents($path, $message);
        touch($path, $at);

        return $path;
    }

    private function folder(string $person, string $folder): string
    {
        $below = $folder === 'INBOX' ? '' : '/.'.str_replace('/', '.', $folder);

        return "{$this->root}/".self::address($person)."/Maildir$below";
    }

    /** People read, flag, file and delete what lies in front of them. */
    private function tidy(int $at): void
    {
        foreach (array_keys($this->lying) as $path) {
            if (! is_file($path)) {
                unset($this->lying[$path]); // with its mailbox

                continue;
            }
            $does = $this->between(0, 99);
            if ($does >= 9 || $this->lying[$path] === self::encoded(self::OFFER)) {
                continue;
            }
            $person = explode('@', basename(dirname($path, 3)))[0];
            unset($this->lying[$path]);
            if ($does < 5) {
                $this->move($path, $person, $this->one(self::FOLDERS), 'S');
            } elseif ($does < 8) {
                $this->deleted[$this->move($path, $person, 'Trash', 'S')] = $at;
            } else {
                $this->move($path, $person, 'INBOX', 'FRS');
            }
        }
    }

    private function move(string $path, string $person, string $folder, string $flags): string
    {
        $to = $this->folder($person, $folder).'/cur/'.explode(':', basename($path))[0].":2,$flags";
        foreach (['cur', 'new', 'tmp'] as $part) {
            is_dir(dirname($to, 2)."/$part") || mkdir(dirname($to, 2)."/$part", 0700, true);
        }
        rename($path, $to);

        return $to;
    }

    private function throwAway(string $subject): void
    {
        foreach (array_keys($this->lying, self::encoded($subject), true) as $path) {
            unlink($path); // deleted at once, as many programs do with a key held down
            unset($this->lying[$path]);
        }
    }

    /** What was deleted goes for good after two weeks. */
    private function purge(int $at): void
    {
        foreach ($this->deleted as $path => $since) {
            if ($since < $at - 14 * self::DAY) {
                @unlink($path);
                unset($this->deleted[$path]);
            }
        }
    }

    private static function name(string $who): string
    {
        return self::PEOPLE[$who] ?? $who;
    }

    private static function named(string $who): string
    {
        return self::encoded(self::name($who)).' <'.(self::OUTSIDE[$who] ?? self::address($who)).'>';
    }

    private static function encoded(string $text): string
    {
        return preg_match('/[^\x20-\x7e]/', $text) === 1 ? mb_encode_mimeheader($text, 'UTF-8', 'Q', "\r\n") : $text;
    }

    private function paragraph(): string
    {
        $sentences = [];
        for ($count = $this->between(2, 6); $count > 0; $count--) {
            $thing = sprintf($this->one(self::THINGS), $this->between(2, 98));
            [$deed, $when] = [$this->one(self::DEEDS), $this->one(self::WHEN)];
            $sentences[] = match ($this->between(0, 3)) {
                0 => "Could you $deed $thing $when?",
                1 => "We still have to $deed $thing $when.",
                2 => ucfirst($deed)." $thing $when, please.",
                default => "Nobody managed to $deed $thing so far; I will try $when.",
            };
        }

        return implode(' ', $sentences);
    }

    private function between(int $least, int $most): int
    {
        return $this->random->getInt($least, $most);
    }

    /**
     * @template T
     *
     * @param  non-empty-list<T>  $from
     * @return T
     */
    private function one(array $from): mixed
    {
        return $from[$this->between(0, count($from) - 1)];
    }

    /**
     * @param  non-empty-list<string>  $from
     * @return non-empty-list<string>
     */
    private function some(array $from, int $count): array
    {
        $keys = $this->random->pickArrayKeys($from, min($count, count($from)));

        return array_values(array_intersect_key($from, array_flip($keys))) ?: [$from[0]];
    }
}

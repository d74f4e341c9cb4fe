<?php

declare(strict_types=1);

namespace Tests\Support;

use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use RuntimeException;
use Symfony\Component\Process\Process;

/** Invented messages, the same for the same seed, and what Python's standard library makes of messages. */
final class MailSamples
{
    private const NAMES = ['Ada Quist', 'Inés Holm', 'Łucja Dąb', 'Søren "Skip" Vik', 'O\'Neill, Fay', '田中 花', 'Weiß'];

    private const SUBJECTS = [
        'Dry dock', 'Réunion d’équipe', 'Übergabe der Schlüssel', '潮汐表', 'Re: Fuel invoice', '', '=?odd?= words', 'a  b',
    ];

    private const LINES = [
        'The gauge reads 3,14 m.', 'From the start, all was well.', '>From quoted', '>>From twice', '', 'Prix: 20 €', '.', '-- ',
        '日本語の行', 'From b@x.example Mon Jun  1 10:00:00 2026',
    ];

    private readonly Randomizer $random;

    private int $made = 0;

    public function __construct(int $seed)
    {
        $this->random = new Randomizer(new Xoshiro256StarStar($seed));
    }

    public function message(): string
    {
        $charset = $this->one(['utf-8', 'iso-8859-15', 'utf-8', 'windows-1252']);
        $body = implode("\n", array_map(fn (): string => $this->one(self::LINES), range(1, $this->random->getInt(1, 8))))."\n";
        $western = (string) preg_replace('/\p{Han}|\p{Hiragana}/u', '', $body);
        $text = $charset === 'utf-8' ? $body : (string) mb_convert_encoding($western, $charset, 'UTF-8');
        [$encoding, $sent] = $this->one([
            ['quoted-printable', quoted_printable_encode(str_replace("\n", "\r\n", $text))],
            ['base64', chunk_split(base64_encode(str_replace("\n", "\r\n", $text)))],
            ['8bit', str_replace("\n", "\r\n", $text)],
        ]);
        $part = "Content-Type: text/plain; charset=$charset\r\nContent-Transfer-Encoding: $encoding\r\n\r\n$sent";

        return $this->headers().($this->random->getInt(0, 2) === 0 ? $this->mixed($part) : $part);
    }

    private function headers(): string
    {
        $number = ++$this->made;
        $encoded = fn (array $texts): string => mb_encode_mimeheader($this->one($texts), 'UTF-8', $this->one(['B', 'Q']), "\r\n");
        $address = fn (): string => $encoded(self::NAMES)." <p$number@sorrel.example>";
        $plain = fn (): string => '"'.addcslashes($this->one(['Ada Quist', 'O\'Neill, Fay', 'Vik "Skip"']), '"\\').'" <q@tide.example>';

        return 'From: '.$this->one([$address, $plain])()."\r\n".
            'To: '.implode(",\r\n ", array_map(fn (): string => $plain(), range(1, $this->random->getInt(1, 3))))."\r\n".
            'Subject: '.$encoded(self::SUBJECTS)."\r\n".
            'Date: '.gmdate('D, j M Y H:i:s', 1_790_000_000 + $number * 1_000)." +0200\r\n".
            "Message-ID: <$number.".$this->random->getInt(0, 1 << 30)."@sorrel.example>\r\nMIME-Version: 1.0\r\n";
    }

    private function mixed(string $part): string
    {
        $boundary = 'b'.$this->random->getInt(0, 1 << 30);
        $name = $this->one(['plan.txt', 'Rechnung März.pdf', 'a b.bin']);
        $named = preg_match('/[^\x20-\x7e]/', $name) === 1 ? "filename*=utf-8''".rawurlencode($name) : "filename=\"$name\"";
        $bytes = $this->random->getBytes($this->random->getInt(1, 400));

        return "Content-Type: multipart/mixed; boundary=\"$boundary\"\r\n\r\npreamble\r\n--$boundary\r\n$part\r\n".
            "--$boundary\r\nContent-Type: application/octet-stream\r\nContent-Transfer-Encoding: base64\r\n".
            "Content-Disposition: attachment; $named\r\n\r\n".chunk_split(base64_encode($bytes))."--$boundary--\r\n";
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

    /**
     * @param  string  $program  in Python, that reads a document from its input and prints one
     * @return array<mixed>
     */
    public static function python(string $program, mixed $document): array
    {
        $process = new Process(['/usr/bin/python3', '-c', $program], null, null, json_encode($document, JSON_THROW_ON_ERROR), 60);
        $answer = json_decode($process->mustRun()->getOutput(), true);

        return is_array($answer) ? $answer : throw new RuntimeException('Python gave no document.');
    }
}

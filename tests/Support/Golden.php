<?php

declare(strict_types=1);

namespace Tests\Support;

use DOMDocument;
use DOMElement;
use DOMNode;
use DOMText;
use PHPUnit\Framework\Assert;

/**
 * What is shown and answered, kept as text, so that moving the code changes none of it unnoticed. KAISEKI_GOLDEN=write writes it anew,
 * after which somebody reads the difference. What no two runs have in common is written as what it is: a moment, a digest, a duration.
 */
final class Golden
{
    private const ALIKE = [
        '~/dev/shm/kaiseki-[0-9a-f]{12}|/tmp/kaiseki-[0-9a-f]{12}~' => 'SCRATCH',
        '~%2F(dev%2Fshm|tmp)%2Fkaiseki-[0-9a-f]{12}~' => 'SCRATCH',
        '~\b\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z?\b~' => 'MOMENT',
        '~\b\d{4}-\d\d-\d\d \d\d:\d\d(:\d\d)?( [+-]\d\d:\d\d)?~' => 'MOMENT',
        '~\b(Mon|Tue|Wed|Thu|Fri|Sat|Sun) \d{1,2} \w{3}( \d{4})?( \d\d:\d\d)?( [+-]\d\d:\d\d)?~' => 'MOMENT',
        '~\b(Mon|Tue|Wed|Thu|Fri|Sat|Sun) \d\d:\d\d(:\d\d)?\b|\b\d\d:\d\d(:\d\d)?\b~' => 'TIME',
        '~\b\d{1,2} \w{3} \d\d:\d\d\b~' => 'MOMENT',
        '~\b[0-9a-f]{64}\b~' => 'DIGEST',
        '~[A-Za-z0-9+/]{42,}={0,2}~' => 'KEY',
        '~\b0-2-\d+\b~' => 'GTID',
        '~binlog\.\d{6}:\d+~' => 'POSITION',
        '~\b127\.0\.0\.1:\d+~' => 'ADDRESS',
        '~"(seconds|setup_seconds|total_seconds|likely|least|most|loss_seconds)": ?"?-?[0-9.eE-]+"?~' => '"$1": N',
        '~\b\d+([.,]\d+)? (ms|s|min|h|days?|d)\b( \d+ (s|min|h))?~' => 'SPAN',
        '~\b[0-9.,]+ (B|kB|MB|GB|TB|KiB|MiB|GiB|TiB)\b~' => 'SIZE',
        '~\b1\d\.\d+(\.\d+-MariaDB[^ "]*)?(?=[ ,])~' => 'VERSION',
        '~"(bytes|bytes_free|bytes_needed|log_bytes|run|mtime_ns|checksum|port)": ?"?\d+"?~' => '"$1": N',
        '~\b([Rr]equest|[Rr]un|runs|requests|workloads|sets|stores|person|Person|[Aa]pproval|approvals)([ /-]|_request_)\d+~' => '$1$2N',
        '~/(workloads|requests|sets|runs|approvals)/\d+~' => '/$1/N',
        '~@\d{9,}\.\d+~' => '@MOMENT',
        '~\[\d+\]~' => '[N]',
        '~request_\d+~' => 'request_N',
        '~(run|rows)_\d+_[0-9a-f]{8}~' => 'RUN',
        '~\d+: (root|keeper)@~' => 'N: $1@',
        '~(minutes|mid|set|order|plan|point-|transaction-)=[^&\s]+~' => '$1=N',
        '~\bMOMENT, in SPAN~' => 'TIME, in SPAN', // an hour before midnight
    ];

    /** Fields whose values are numbers of rows. */
    private const IDS = ['set', 'store', 'host', 'workload', 'requester', 'mid', 'minutes'];

    /** @param  bool  $isPage  HTML, of which what can be seen and done counts */
    public static function holds(string $name, string $shown, bool $isPage = false): void
    {
        $text = (string) preg_replace(array_keys(self::ALIKE), array_values(self::ALIKE), $isPage ? self::seen($shown) : $shown);
        $file = dirname(__DIR__)."/Golden/$name.txt";
        if (getenv('KAISEKI_GOLDEN') === 'write') {
            @mkdir(dirname($file), 0755, true);
            file_put_contents($file, rtrim($text)."\n");
        }
        Assert::assertSame((string) @file_get_contents($file), rtrim($text)."\n", "$name is not what it was.");
    }

    private static function seen(string $html): string
    {
        $document = new DOMDocument;
        @$document->loadHTML('<?xml encoding="UTF-8">'.$html, LIBXML_NOERROR);
        $lines = [];
        $main = $document->getElementsByTagName('main')->item(0) ?? $document->getElementsByTagName('body')->item(0);
        assert($main !== null);
        self::walk($main, $lines);

        return implode("\n", array_filter($lines, fn (string $line): bool => $line !== ''));
    }

    /** @param  list<string>  $lines */
    private static function walk(DOMNode $node, array &$lines): void
    {
        if ($node instanceof DOMText) {
            $text = trim((string) preg_replace('/\s+/', ' ', $node->data));
            $lines[] = $node->parentNode instanceof DOMElement && $node->parentNode->tagName === 'a' && ctype_digit($text) ? 'N' : $text;

            return;
        }
        if (
            ! ($node instanceof DOMElement) ||
            in_array($node->tagName, ['svg', 'style', 'script', 'time'], true) ||
            $node->getAttribute('name') === '_token'
        ) {
            return;
        }
        $lines[] = match ($node->tagName) {
            'a' => '-> '.$node->getAttribute('href'),
            'form' => 'form '.$node->getAttribute('method').' '.$node->getAttribute('action'),
            'input', 'button', 'select', 'textarea' => "[{$node->tagName}] {$node->getAttribute('name')}".
                (ctype_digit($node->getAttribute('value')) && in_array($node->getAttribute('name'), self::IDS, true)
                    ? ' N'
                    : ($node->getAttribute('name') === 'order'
                        ? ''
                        : " {$node->getAttribute('value')}")).
                ($node->hasAttribute('checked') ? ' (checked)' : ''),
            default => '',
        };
        foreach ($node->childNodes as $child) {
            self::walk($child, $lines);
        }
    }
}

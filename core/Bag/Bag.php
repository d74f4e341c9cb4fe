<?php

declare(strict_types=1);

namespace Kaiseki\Core\Bag;

/** Files that are handed on with all that is needed to see that none is missing or another (BagIt, RFC 8493). */
final class Bag
{
    public const PAYLOAD = 'data/';

    public const MANIFEST = 'manifest-sha256.txt';

    public const TAG_MANIFEST = 'tagmanifest-sha256.txt';

    private const DECLARATION = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n";

    private const LINE = 78;

    /** @var array<string, string> path below the bag => SHA-256, hex */
    private array $payload = [];

    private int $bytes = 0;

    /** @param  string  $path  begins with PAYLOAD */
    public function add(string $path, string $sha256, int $size): void
    {
        $this->payload[$path] = $sha256;
        $this->bytes += $size;
    }

    public function count(): int
    {
        return count($this->payload);
    }

    /**
     * What lies beside the payload.
     *
     * @param  array<string, string>  $about  labels of bag-info.txt => what they say, in the order in which they stand there
     * @param  array<string, string>  $more  other files beside it => contents
     * @return array<string, string> name => content, the manifest of these last
     */
    public function files(array $about, array $more): array
    {
        $files = ['bagit.txt' => self::DECLARATION, 'bag-info.txt' => '', self::MANIFEST => self::list($this->payload)] + $more;
        $about += ['Payload-Oxum' => "{$this->bytes}.{$this->count()}"];
        foreach ($about as $label => $text) {
            $files['bag-info.txt'] .= self::folded("$label: ".trim((string) preg_replace('/\s+/u', ' ', $text)));
        }
        $digests = array_map(fn (string $content): string => hash('sha256', $content), $files);

        return $files + [self::TAG_MANIFEST => self::list($digests)];
    }

    /**
     * @return array<string, string> path => SHA-256, hex
     */
    public static function read(string $manifest): array
    {
        preg_match_all('/^([0-9a-f]{64}) +(.+?)\r?$/m', $manifest, $lines, PREG_SET_ORDER);
        $digests = [];
        foreach ($lines as [, $digest, $path]) {
            $digests[strtr($path, ['%0A' => "\n", '%0a' => "\n", '%0D' => "\r", '%0d' => "\r", '%25' => '%'])] = $digest;
        }

        return $digests;
    }

    /** @param  array<string, string>  $digests */
    private static function list(array $digests): string
    {
        $list = '';
        foreach ($digests as $path => $digest) {
            // Section 2.1.3: what would end a line, and the sign that begins such a code, stand as codes.
            $list .= "$digest  ".strtr((string) $path, ['%' => '%25', "\n" => '%0A', "\r" => '%0D'])."\n";
        }

        return $list;
    }

    /** Long lines go on in the next one, which begins with a space (section 2.2.2). */
    private static function folded(string $line): string
    {
        $folded = '';
        while (mb_strlen($line) > self::LINE && ($at = mb_strrpos(mb_substr($line, 0, self::LINE), ' ')) > 1) {
            $folded .= mb_substr($line, 0, $at)."\n";
            $line = ' '.mb_substr($line, $at + 1);
        }

        return "$folded$line\n";
    }
}

<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Models\BackupSet;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Places\OneFile;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Mail\MaildirName;

/** The flags of items as they were at a point: keywords are letters in the names of files, and stand for words that lie beside them. */
final class KeywordMeanings
{
    private const FILE = 'dovecot-keywords';

    private const LONGEST = 1 << 16;

    /** @var array<string, array<string, string>> path of a Maildir => letter => keyword */
    private array $known = [];

    public function __construct(private readonly BackupSet $point)
    {
    }

    /** @return list<string> as a mail server knows them */
    public function flagsOf(ItemSpan $span): array
    {
        $name = MaildirName::of($span->name);
        if ($span->receivedAt === null) {
            return []; // several messages in one file: what it says of them stands in their headers
        }

        return $name->imapFlags($name->keywords === [] ? [] : $this->meanings($span->path));
    }

    /** @return array<string, string> */
    private function meanings(int $path): array
    {
        $reader = new CatalogReader;
        $maildir = EntryPath::split(EntryPath::split($reader->folderPaths([$path])[$path] ?? '')[0])[0];

        return $this->known[$maildir] ??= $this->read($reader, EntryPath::join($maildir, self::FILE));
    }

    /** @return array<string, string> */
    private function read(CatalogReader $reader, string $file): array
    {
        $packed = $reader->at($this->point, $file);
        $version = $packed === null ? null : Version::unpack($packed);
        $content = $version === null || ! $version->needsBytes() ? null : OneFile::read($this->point, $version);

        return $content === null ? [] : MaildirName::meanings((string) stream_get_contents($content, self::LONGEST));
    }
}

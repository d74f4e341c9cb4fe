<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Closure;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\TarWriter;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\UnableToWrite;
use Kaiseki\Core\Volume\FoundFile;

/**
 * How a tree that was brought before becomes that of another point: names that go, and things that come. Whatever is not told to be there
 * exactly as it is to be comes; a folder always does, since what changes in it changes its time.
 */
final class TreeStep
{
    /** Names that are compared at a time. */
    private const AT_ONCE = 100_000;

    private const COMES = '1';

    private const STAYS = '0';

    /** Entry by entry, in their order: whether it comes. */
    private string $entries = '';

    /** @var resource SHA-256 of the contents that stay, 32 bytes for each entry */
    private $digests;

    /** @var resource names that go, a NUL behind each */
    private $gone;

    /** How many names go. */
    public int $goes = 0;

    /** @var array<int, int> node => how many names the file has */
    private array $names = [];

    /** @var array<int, true> nodes of which a name comes: then all do */
    private array $comes = [];

    /** @var list<string> folders that are made anew with all that is in them: attributes that one has no more cannot be sent */
    private array $anew = [];

    private int $at = 0;

    /**
     * @param  SentTree  $to  what it is to be; it is gone through several times
     * @param  TreeRecord  $was  what was brought there before
     * @param  resource  $entries  what is there now, as TreeRecord::compare() takes it
     * @param  resource  $digests
     * @param  resource  $attributes
     */
    public function __construct(private readonly SentTree $to, TreeRecord $was, $entries, $digests, $attributes)
    {
        $this->digests = self::spool();
        $this->gone = self::spool();
        foreach ($this->stored() as $file) {
            $this->entries .= self::COMES;
            self::isLinked($file) && $this->names[$file->node] = ($this->names[$file->node] ?? 0) + 1;
        }
        ftruncate($this->digests, 32 * strlen($this->entries));
        $parts = intdiv(max(strlen($this->entries), $was->count()), self::AT_ONCE) + 1;
        for ($part = 0; $part < $parts; $part++) {
            $isMeant = fn (string $path): bool => crc32($path) % $parts === $part;
            $this->look($was, TreeRecord::got($entries, $digests, $attributes, $isMeant), $isMeant);
        }
        $this->lookAtLinks();
    }

    /** @return resource */
    private static function spool()
    {
        return fopen('php://temp', 'w+b') ?: throw UnableToWrite::full('', 'What changes');
    }

    /** @return iterable<string, FoundFile> */
    private function stored(): iterable
    {
        foreach ($this->to->entries() as $path => $file) {
            if (TreeSender::isStored($file)) {
                yield (string) $path => $file;
            }
        }
    }

    private static function isLinked(FoundFile $file): bool
    {
        return $file->version->kind === EntryKind::File && $file->version->linkGroup > 0;
    }

    /**
     * @param  array<string, array{string, string, string, int}>  $got
     * @param  Closure(string): bool  $isMeant
     */
    private function look(TreeRecord $was, array $got, Closure $isMeant): void
    {
        $known = [];
        foreach ($was->contents() as $path => $digests) {
            $isMeant($path) && $known[$path] = $digests;
        }
        $i = 0;
        foreach ($this->stored() as $path => $file) {
            if ($isMeant($path)) {
                $there = $got[$path] ?? null;
                $digest = $there === null ? null : $this->there($path, $file, $there, $known[$path] ?? null);
                $this->entries[$i] = $digest === null ? self::COMES : self::STAYS;
                if ($digest !== null && $digest !== '') {
                    fseek($this->digests, 32 * $i);
                    fwrite($this->digests, (string) hex2bin($digest));
                }
                $digest === null && self::isLinked($file) && $this->comes[$file->node] = true;
                unset($got[$path]);
            }
            $i++;
        }
        unset($got[TreeRecord::TOP]);
        array_map(fn (int|string $path) => $this->goes((string) $path), array_keys($got));
    }

    private function goes(string $path): void
    {
        if (preg_match('~(^|/)\.\.(/|$)~', $path) === 0) { // a name that no folder has
            fwrite($this->gone, "./$path\0");
            $this->goes++;
        }
    }

    /**
     * @param  array{string, string, string, int}  $got  facts, digest, attributes, names
     * @param  array{string, string}|null  $was  SHA-256 of its content when it was brought, and the catalog's digest of that
     * @return string|null SHA-256 of its content, '' where it has none; null if it comes
     */
    private function there(string $path, FoundFile $file, array $got, ?array $was): ?string
    {
        $facts = TreeRecord::factsOf($file);
        $kind = $file->version->kind;
        $hasOtherAttributes = $got[2] !== TreeRecord::attributes($file->extended);
        if ($got[0][0] !== $facts[0] || ($kind === EntryKind::Folder && $hasOtherAttributes)) {
            $this->goes($path);
            $kind === EntryKind::Folder && $this->anew[] = $path;
        }
        if ($got[0] !== $facts || $hasOtherAttributes || $kind === EntryKind::Folder) {
            return null;
        }
        if ($kind !== EntryKind::File) {
            return '';
        }

        return self::isLinked($file) && $got[3] !== $this->names[$file->node] ? null : $this->content($file, $got[1], $was);
    }

    /** @param  array{string, string}|null  $was */
    private function content(FoundFile $file, string $got, ?array $was): ?string
    {
        [$digest, $catalog] = $was ?? ['', ''];
        $is = bin2hex((string) $file->version->digest);
        if ($is !== '' && $catalog !== '' && ($is !== $catalog || $digest !== '')) {
            return $is === $catalog && $digest === $got ? $got : null;
        }
        $hash = hash_init('sha256');
        foreach ($this->to->content($file) as $bytes) {
            hash_update($hash, $bytes);
        }

        return hash_equals(hash_final($hash), $got) ? $got : null;
    }

    /** Of a file that comes with a folder that is made anew, the other names come too. */
    private function lookAtLinks(): void
    {
        foreach ($this->anew === [] ? [] : $this->stored() as $path => $file) {
            if (self::isLinked($file) && $this->isAnew($path)) {
                $this->comes[$file->node] = true;
            }
        }
    }

    private function isAnew(string $path): bool
    {
        foreach ($this->anew as $folder) {
            if (EntryPath::isWithin($path, $folder)) {
                return true;
            }
        }

        return false;
    }

    /** @return resource names that go, a NUL behind each, as rm(1) takes them in the folder that all of it lies in */
    public function gone()
    {
        rewind($this->gone);

        return $this->gone;
    }

    /**
     * What comes, into an archive that is unpacked over what is there, once what goes has gone; the record has all of it.
     *
     * @param  Closure(int, int): void  $advanced  told files and bytes
     */
    public function pour(TarWriter $tar, TreeRecord $record, Closure $advanced): TreeSender
    {
        $this->at = 0;
        rewind($this->digests);
        $sender = new TreeSender($this->to, $record, $this->stays(...));
        $sender->pour($tar, $advanced);

        return $sender;
    }

    private function stays(string $path, FoundFile $file): ?string
    {
        if ($path === TreeRecord::TOP) {
            return null;
        }
        $digest = (string) fread($this->digests, 32);
        $isMeant = $this->entries[$this->at++] === self::STAYS && ! isset($this->comes[$file->node]) && ! $this->isAnew($path);

        return ! $isMeant ? null : ($file->version->kind === EntryKind::File ? bin2hex($digest) : '');
    }
}

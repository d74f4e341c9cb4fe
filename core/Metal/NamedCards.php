<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Volume\FoundFile;

/**
 * The same files, and besides what has the cards of another machine be called as those of the old one were, so that what is set up by those
 * names finds them: systemd.link(5), "[Match] MACAddress=" and "[Link] Name=". Nothing where the system has no systemd.
 */
final class NamedCards implements SentTree
{
    private const SYSTEMD = 'etc/systemd';

    private const FOLDER = 'etc/systemd/network';

    /** @var array<string, string> content of what is added, by its path */
    private array $added = [];

    /** @param  array<string, string>  $cards  name => address of the card that is called so */
    public function __construct(private readonly SentTree $from, array $cards)
    {
        foreach ($cards as $name => $address) {
            $this->added[self::FOLDER."/10-kaiseki-$name.link"] =
                "# The network card that is in the place of $name since this machine was brought onto another one.\n".
                "[Match]\nMACAddress=$address\n\n[Link]\nName=$name\n";
        }
    }

    /**
     * Which card is called what: those that are the same keep their names, the others get them in their order.
     *
     * @param  list<RecordedCard>  $were
     * @param  list<string>  $are  addresses
     * @return array<string, string> name => address, of those that are not the same
     */
    public static function pairs(array $were, array $are): array
    {
        $others = array_values(array_diff($are, array_map(fn (RecordedCard $card): string => $card->address, $were)));
        $named = [];
        foreach ($were as $card) {
            $address = in_array($card->address, $are, true) ? null : array_shift($others);
            $address === null || $named[$card->name] = $address;
        }

        return $named;
    }

    public function root(): FoundFile
    {
        return $this->from->root();
    }

    public function entries(): iterable
    {
        $now = 0;
        $kinds = [self::SYSTEMD => null, self::FOLDER => null];
        foreach ($this->from->entries() as $path => $file) {
            if (isset($this->added[$path])) {
                continue; // of a time before: it is written anew
            }
            yield $path => $file;
            if (array_key_exists($path, $kinds)) {
                $kinds[$path] = $file->version->kind;
                $now = $file->version->mtime;
            }
        }
        if ($kinds[self::SYSTEMD] === EntryKind::Folder && in_array($kinds[self::FOLDER], [EntryKind::Folder, null], true)) {
            yield from $this->more($kinds[self::FOLDER] === null, $now);
        }
    }

    /** @return iterable<string, FoundFile> */
    private function more(bool $isFolderNew, int $now): iterable
    {
        if ($isFolderNew && $this->added !== []) {
            yield self::FOLDER => new FoundFile(0, new Version(EntryKind::Folder, 0, $now, null, 0755, 0, 0, '', ''));
        }
        foreach ($this->added as $path => $content) {
            $version = new Version(EntryKind::File, strlen($content), $now, self::digest($content), 0644, 0, 0, '', '');
            yield $path => new FoundFile(0, $version);
        }
    }

    private static function digest(string $content): string
    {
        return sodium_crypto_generichash($content);
    }

    public function content(FoundFile $file): iterable
    {
        foreach ($this->added as $content) {
            if ($file->version->digest === self::digest($content)) {
                return [$content];
            }
        }

        return $this->from->content($file);
    }
}

<?php

declare(strict_types=1);

namespace Kaiseki\Core\Catalog;

use InvalidArgumentException;
use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\Place;
use Kaiseki\Core\Doubt\ContentTexture;

/** One entry of the tree of a set, as NAME.manifest.jsonl has it. */
final readonly class ManifestLine
{
    private const TYPES = [
        'folder' => EntryKind::Folder,
        'symlink' => EntryKind::Symlink,
        'fifo' => EntryKind::Fifo,
        'file' => EntryKind::File,
        'excluded' => EntryKind::Excluded,
    ];

    public function __construct(
        public string $path,
        public Version $version,
        /** Whether its bytes, or its header, are in this archive, and not in the base's. */
        public bool $isHere,
        public ?Place $place = null,
        /** The same for all names of one file; null for a file with one. */
        public ?string $links = null,
    ) {
    }

    public function json(): string
    {
        $version = $this->version;
        $path = './'.$this->path;
        $utf8 = Shown::isUtf8($path) && Shown::isUtf8($version->linkTarget);
        $line = ['path' => $utf8 ? $path : Shown::percentEncoded($path)] +
            ($utf8 ? [] : ['encoded' => true]) + [
                'type' => array_search($version->kind, self::TYPES, true) ?: 'file',
                'size' => $version->size,
                'mode' => sprintf('%04o', $version->mode),
                'uid' => $version->uid,
                'gid' => $version->gid,
                'uname' => $version->uname,
                'gname' => $version->gname,
                'mtime' => sprintf(
                    '%s%d.%09d',
                    $version->mtime < 0 ? '-' : '',
                    intdiv(abs($version->mtime), 1_000_000_000),
                    abs($version->mtime % 1_000_000_000),
                ),
            ];
        if ($version->linkTarget !== '') {
            $line['target'] = $utf8 ? $version->linkTarget : Shown::percentEncoded($version->linkTarget);
        }
        if ($version->access !== '') {
            $line['acl'] = $version->access;
        }
        if ($this->links !== null) {
            $line['links'] = $this->links;
        }
        if ($version->digest !== null) {
            $line['blake2b_256'] = bin2hex($version->digest);
        }
        $texture = ContentTexture::of($version->texture);
        if ($texture->isKnown()) {
            $line['entropy'] = $texture->isDense() ? 'dense' : round((float) $texture->entropy(), 2);
        }
        if ($version->kind !== EntryKind::Folder) {
            $line['in'] = $this->isHere ? 'here' : 'base';
        }
        if ($this->place !== null) {
            $line['member'] = $this->place->offset;
            $line['within'] = $this->place->within;
        }

        return json_encode($line, JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR)."\n";
    }

    /** @throws InvalidArgumentException if it is not such a line */
    public static function parse(string $json): self
    {
        $line = json_decode($json, true);
        if (
            ! is_array($line) ||
            ! is_string($line['path'] ?? null) ||
            ! isset(self::TYPES[$line['type'] ?? '']) ||
            ! is_int($line['size'] ?? null) ||
            $line['size'] < 0 ||
            preg_match('/^(-?)(\d{1,10})\.(\d{9})$/D', (string) ($line['mtime'] ?? ''), $time) !== 1 ||
            preg_match('/^[0-7]{4,5}$/D', (string) ($line['mode'] ?? '')) !== 1
        ) {
            throw new InvalidArgumentException('It has a line that is no entry.');
        }
        $encoded = ($line['encoded'] ?? false) === true;
        $text = fn (string $key): string => is_string($line[$key] ?? null) ? ($encoded ? rawurldecode($line[$key]) : $line[$key]) : '';
        try {
            $path = EntryPath::of($text('path'));
        } catch (UnsafePath $unsafe) {
            throw new InvalidArgumentException($unsafe->getMessage());
        }
        $digest =
            is_string($line['blake2b_256'] ?? null) && preg_match('/^[0-9a-f]{64}$/D', $line['blake2b_256']) === 1
                ? (string) hex2bin($line['blake2b_256'])
                : null;
        $entropy = $line['entropy'] ?? null;
        $texture =
            $entropy === 'dense'
                ? ContentTexture::dense()
                : (is_numeric($entropy)
                    ? ContentTexture::ofEntropy((float) $entropy)
                    : ContentTexture::unknown());
        $mtime = ((int) $time[2] * 1_000_000_000 + (int) $time[3]) * ($time[1] === '-' ? -1 : 1);
        $kind = self::TYPES[$line['type']];

        return new self(
            $path,
            new Version(
                $kind,
                $kind === EntryKind::File ? $line['size'] : 0,
                $mtime,
                $digest,
                (int) octdec($line['mode']),
                (int) ($line['uid'] ?? 0),
                (int) ($line['gid'] ?? 0),
                is_string($line['uname'] ?? null) ? $line['uname'] : '',
                is_string($line['gname'] ?? null) ? $line['gname'] : '',
                $text('target'),
                0,
                false,
                $texture->code,
                is_string($line['acl'] ?? null) && $kind !== EntryKind::Symlink ? AccessList::textOf($line['acl']) : '',
            ),
            ($line['in'] ?? 'here') === 'here',
            is_int($line['member'] ?? null) && is_int($line['within'] ?? null) && min($line['member'], $line['within']) >= 0
                ? new Place($line['member'], $line['within'])
                : null,
            is_string($line['links'] ?? null) ? $line['links'] : null,
        );
    }
}

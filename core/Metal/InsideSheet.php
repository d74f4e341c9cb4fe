<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Proof\HandSheet;

/**
 * Out of the archives of a machine that sent itself: GNU tar unpacks them one over the other, and mke2fs(8) fills each file system from
 * the folder at which it was mounted, the innermost first. It is run by root, and needs sh, tar, gzip, setfattr, dd, sfdisk, wipefs,
 * mke2fs, e2fsck and mkswap.
 */
final readonly class InsideSheet extends MetalSheet
{
    private const TREE = '"$1"/tree';

    /**
     * @param  list<string>  $archives  the full first, then what was made over it, as a shell finds them: $here is the folder of the sheet
     */
    public function __construct(LayoutPlan $plan, private MachineRecord $record, private string $title, private array $archives)
    {
        parent::__construct($plan);
    }

    /** @return iterable<string> lines that put what is needed into the folder $1 */
    public function beginning(): iterable
    {
        yield '#!/bin/sh';
        yield '# '.preg_replace('/[\x00-\x1f\x7f]/', '?', $this->title);
        yield 'set -eu';
        yield '[ $# = 1 ] && [ -d "$1" ] && [ -z "$(ls -A "$1")" ] || { echo "usage: sh $0 EMPTY-FOLDER" >&2; exit 2; }';
        yield 'here=$(cd "$(dirname "$0")" && pwd)';
        yield 'mkdir '.self::TREE;
        foreach ($this->archives as $archive) {
            yield 'tar --extract --gzip --listed-incremental=/dev/null --numeric-owner --same-owner --same-permissions --xattrs \\';
            yield "  --xattrs-include='*' --acls --directory=".self::TREE." --file=$archive";
        }
        $attributes = $this->file(MachineRecord::ATTRIBUTES);
        foreach (array_filter($this->record->imagesAt, fn (string $at): bool => $at !== '') as $at) {
            yield 'find '.self::TREE.'/'.HandSheet::quoted($at).' -mindepth 1 -delete # it comes as an image';
        }
        yield "[ ! -s $attributes ] || (cd ".self::TREE.' && setfattr --restore='.MachineRecord::FOLDER.'/'.MachineRecord::ATTRIBUTES.')';
    }

    private function file(string $name): string
    {
        return self::TREE.'/'.HandSheet::quoted(MachineRecord::FOLDER."/$name");
    }

    protected function code(PlannedDisk $disk, string $onto): iterable
    {
        $begin = $this->file(MachineRecord::begin($disk->was->name));
        yield "copy $begin 0 ".LayoutReading::CODE." $onto 0";
        if ($disk->gap() > 0) {
            yield "copy $begin 512 {$disk->gap()} $onto 512";
        }
    }

    protected function image(Place $place): iterable
    {
        yield "gunzip -c {$this->file(MachineRecord::image($place->key))} >\"\$1\"/part";
        yield from $this->onto($place, '"$1"/part', $place->was);
        yield 'rm "$1"/part';
    }

    protected function trees(): array
    {
        $trees = parent::trees();
        usort($trees, fn (Place $a, Place $b): int => $this->depth($b) <=> $this->depth($a));

        return $trees;
    }

    private function depth(Place $place): int
    {
        $at = $this->at($place);

        return $at === '' ? 0 : substr_count($at, '/') + 1;
    }

    private function at(Place $place): string
    {
        return $this->record->files[$place->key]->at;
    }

    protected function tree(Place $place): iterable
    {
        $of = $place->content;
        $from = self::TREE.'/'.HandSheet::quoted($this->at($place));
        // What lay on it is no part of the file system in which it was mounted.
        $clear = $this->at($place) === '' ? '' : "find $from -mindepth 1 -delete";
        if ($of->kind === ContentKind::Xfs) {
            yield from $this->xfs($place, ["was=$from"], []);
            yield $clear;

            return;
        }
        $label = $of->label === '' ? '' : ' -L '.HandSheet::quoted($of->label);
        $kibibytes = intdiv($place->bytes, 1024);
        yield "truncate -s {$kibibytes}K \"\$1\"/part";
        yield "mke2fs -q -F -t {$of->type} -U ".($of->uuid === '' ? 'random' : $of->uuid)." -b {$of->block} -I {$of->inode}$label \\";
        yield "  -d $from \"\$1\"/part {$kibibytes}k";
        yield 'e2fsck -fn "$1"/part >/dev/null';
        yield from $this->onto($place, '"$1"/part', $kibibytes * 1024);
        yield 'rm "$1"/part';
        yield $clear;
    }
}

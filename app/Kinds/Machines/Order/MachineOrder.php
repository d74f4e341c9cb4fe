<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Hosts\Hosts;
use App\Kinds\Machines\Run\ImageWriting;
use App\Models\Host;
use App\Trees\Run\Targets;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Files\Look;
use Kaiseki\Core\Files\Target;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Machine\ImageFormat;

/** Images of disks that are to be written to a folder: as it is confirmed, kept with the run, and carried out. */
final readonly class MachineOrder
{
    /**
     * @param  string  $name  the first part of the images' names
     * @param  list<string>  $disks
     * @param  string  $folder  of the host
     * @param  string  $host  '' for this machine
     * @param  bool  $part  whether blocks that nobody can give back may be left as zeros
     */
    public function __construct(
        public string $name,
        public array $disks,
        public ImageFormat $format,
        public string $folder,
        public string $host = '',
        public bool $part = false,
        public CopyRule $copies = new CopyRule,
        public string $sentence = '',
    ) {
    }

    /** What the image of a disk is called. */
    public function fileOf(string $disk): string
    {
        return "{$this->name}.$disk.".$this->format->extension();
    }

    /** Of which file of a disk the digest is told: of a raw image of the list of its blocks. */
    public function digestedFileOf(string $disk): string
    {
        return $this->fileOf($disk).($this->format === ImageFormat::Raw ? ImageWriting::BLOCKS : '');
    }

    /** @return list<string> what the images of some disks are written as, with their digests */
    public function filesOf(string ...$disks): array
    {
        $files = [];
        foreach ($disks as $disk) {
            array_push($files, $this->fileOf($disk), $this->digestedFileOf($disk));
        }

        return [...array_values(array_unique($files)), $this->digests(), $this->sheet()];
    }

    /** How the machine is configured, in words. */
    public function sheet(): string
    {
        return "{$this->name}.settings.txt";
    }

    /** The digests of the images, as b2sum reads them. */
    public function digests(): string
    {
        return "{$this->name}.b2sum";
    }

    /** @throws UnableToRestore if its host is gone */
    public function hostModel(): ?Host
    {
        return $this->host === ''
            ? null
            : Host::query()->where('name', $this->host)->first() ??
                    throw UnableToRestore::targetUnfit($this->folder, "the host {$this->host} is not known any more");
    }

    /**
     * The folder, made if only its last part is missing.
     *
     * @throws UnableToRestore
     */
    public function open(): Target
    {
        return Hosts::target($this->hostModel(), $this->folder, Targets::root($this->hostModel(), $this->folder));
    }

    /** @throws UnableToRestore if its host does not answer */
    public function look(): Look
    {
        return Hosts::look($this->hostModel(), $this->folder, Targets::root($this->hostModel(), $this->folder));
    }

    public function withSentence(string $sentence): self
    {
        return self::fromArray(['sentence' => $sentence] + $this->toArray());
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'name' => $this->name,
            'disks' => $this->disks,
            'format' => $this->format->value,
            'folder' => rawurlencode($this->folder),
            'host' => $this->host,
            'part' => $this->part,
            'use' => $this->copies->use,
            'avoid' => $this->copies->avoid,
            'sentence' => $this->sentence,
        ];
    }

    /** @param  array<string, mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        return new self(
            (string) $kept['name'],
            array_map(strval(...), array_values((array) $kept['disks'])),
            ImageFormat::from((string) $kept['format']),
            rawurldecode((string) $kept['folder']),
            (string) ($kept['host'] ?? ''),
            (bool) ($kept['part'] ?? false),
            new CopyRule($kept['use'] ?? [], $kept['avoid'] ?? []),
            (string) ($kept['sentence'] ?? ''),
        );
    }
}

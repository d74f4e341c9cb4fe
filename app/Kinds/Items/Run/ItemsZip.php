<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Instance;
use App\Kinds\Items\Order\CannotBringItems;
use Illuminate\Filesystem\Filesystem;
use Kaiseki\Core\Files\NewFile;
use ZipArchive;

/** Items as one zip. Each lies in a file of our own until it is made, so that a whole mailbox needs no memory. */
final class ItemsZip
{
    private const PIECE = 1 << 20;

    private readonly string $folder;

    private readonly ZipArchive $zip;

    private int $number = 0;

    public function __construct(int $run)
    {
        $this->folder = Instance::folder('tmp')."/zip-of-run-$run";
        self::clear($this->folder); // what a killed attempt left
        mkdir($this->folder, 0700);
        $this->zip = new ZipArchive;
        $this->zip->open("{$this->folder}/zip", ZipArchive::CREATE) === true || throw CannotBringItems::because('No zip can be made here.');
    }

    /** @param  int  $time  seconds since 1970 */
    public function add(string $name, string $bytes, int $time): void
    {
        $file = "{$this->folder}/".++$this->number;
        $isWritten = @file_put_contents($file, $bytes) === strlen($bytes);
        if (! $isWritten || ! $this->zip->addFile($file, $name, 0, 0, ZipArchive::FL_ENC_UTF_8)) {
            throw CannotBringItems::because("$name cannot be put into the zip: is the disk of the home full?");
        }
        $this->zip->setMtimeName($name, $time);
    }

    /** Makes it, and hands it on. */
    public function into(NewFile $file): void
    {
        @$this->zip->close() || throw CannotBringItems::because('The zip cannot be made: is the disk of the home full?');
        $stream = fopen("{$this->folder}/zip", 'rb') ?: throw CannotBringItems::because('The zip cannot be made here.');
        while (($bytes = fread($stream, self::PIECE)) !== false && $bytes !== '') {
            $file->data($bytes);
        }
        fclose($stream);
        self::clear($this->folder);
    }

    /**
     * What one holds, read again.
     *
     * @param  resource  $stream
     * @param  list<string>  $names
     * @return iterable<string, string|null> name => content; null for what is not in it, or not as its own checksum says
     */
    public static function contents($stream, array $names, int $run): iterable
    {
        $folder = Instance::folder('tmp')."/zip-of-run-$run";
        self::clear($folder);
        mkdir($folder, 0700);
        try {
            file_put_contents("$folder/zip", $stream);
            $zip = new ZipArchive;
            $isOpen = $zip->open("$folder/zip", ZipArchive::RDONLY) === true;
            foreach ($names as $name) {
                $bytes = $isOpen ? @$zip->getFromName($name) : false;
                yield $name => $bytes === false ? null : $bytes;
            }
        } finally {
            self::clear($folder);
        }
    }

    private static function clear(string $folder): void
    {
        (new Filesystem)->deleteDirectory($folder);
    }
}

<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** Drivers of a kernel, each behind those that it needs, as it says itself ("depends=" of modinfo(8)). */
final class KernelModules
{
    /** @var array<string, string>|null name => file */
    private ?array $files = null;

    /** @param  string  $folder  lib/modules/VERSION of a kernel's package */
    public function __construct(private readonly string $folder)
    {
    }

    /**
     * Those that are built into the kernel are no files, and left away.
     *
     * @param  list<string>  $names  with _, whatever their files are called
     * @return array<string, string> name => file, in the order in which they can be loaded
     */
    public function order(array $names): array
    {
        $order = [];
        foreach ($names as $name) {
            $this->add($name, $order);
        }

        return $order;
    }

    /** @param  array<string, string>  $order */
    private function add(string $name, array &$order): void
    {
        $file = $this->files()[$name] ?? null;
        if ($file === null || isset($order[$name])) {
            return;
        }
        preg_match('/\0depends=([^\0]*)\0/', (string) file_get_contents($file), $m);
        foreach (array_filter(explode(',', $m[1] ?? '')) as $needed) {
            $this->add(strtr($needed, '-', '_'), $order);
        }
        $order[$name] = $file;
    }

    /** @return array<string, string> */
    private function files(): array
    {
        if ($this->files === null) {
            $this->files = [];
            $all = new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator("$this->folder/kernel", \FilesystemIterator::SKIP_DOTS));
            foreach ($all as $file) {
                if ($file instanceof \SplFileInfo && $file->getExtension() === 'ko') {
                    $this->files[strtr($file->getBasename('.ko'), '-', '_')] = $file->getPathname();
                }
            }
        }

        return $this->files;
    }
}

<?php

declare(strict_types=1);

namespace App\Stores;

use App\Instance;
use App\Models\Store;
use Aws\S3\S3Client;
use Illuminate\Support\Collection;
use Kaiseki\StandIns\CartridgeLibrary;
use League\Flysystem\AwsS3V3\AwsS3V3Adapter;
use League\Flysystem\Filesystem;
use League\Flysystem\FilesystemOperator;
use League\Flysystem\Local\LocalFilesystemAdapter;
use League\Flysystem\UnableToReadFile;

/** The stores as they are reached, each opened once. */
final class OpenStores
{
    /** @var array<int, CopyStore> */
    private array $open = [];

    /** @var Collection<int, Store>|null */
    private ?Collection $all = null;

    public function of(Store $store): CopyStore
    {
        return $this->open[$store->id] ??= match ($store->kind) {
            'object' => self::objects($store),
            'tape' => new CartridgeStore(new CartridgeLibrary($store->root)),
            default => new FolderStore($store->root),
        };
    }

    /** @return Collection<int, Store> by id */
    public function all(): Collection
    {
        return $this->all ??= Store::query()->orderBy('name')->get()->keyBy('id');
    }

    public function release(): void
    {
        foreach ($this->open as $store) {
            $store->release();
        }
    }

    private static function objects(Store $store): ObjectStore
    {
        $options = $store->options ?? [];
        if (! isset($options['bucket'])) {
            return new ObjectStore($store->name, fn (): FilesystemOperator => is_dir($store->root)
                ? new Filesystem(new LocalFilesystemAdapter($store->root))
                : throw UnableToReadFile::fromLocation($store->root, 'its folder is not there'), false);
        }
        /** @var array{key?: string, secret?: string} $keys */
        $keys = json_decode((string) @file_get_contents(Instance::path("keys/store-{$store->name}.json")), true) ?? [];
        $client = new S3Client([
            'version' => 'latest', 'region' => $options['region'] ?? 'us-east-1', 'use_path_style_endpoint' => true,
            'credentials' => ['key' => $keys['key'] ?? '', 'secret' => $keys['secret'] ?? ''],
            'http' => ['connect_timeout' => 3, 'timeout' => 300], 'retries' => 1,
        ] + (isset($options['endpoint']) ? ['endpoint' => $options['endpoint']] : []));

        return new ObjectStore($store->name, fn (int $offset): FilesystemOperator => new Filesystem(new AwsS3V3Adapter(
            $client, $options['bucket'], $options['prefix'] ?? '', options: $offset > 0 ? ['Range' => "bytes=$offset-"] : [],
        )), true);
    }
}

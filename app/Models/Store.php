<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * @property int $id
 * @property string $name
 * @property string $kind folder, object or tape
 * @property string $site
 * @property string $root
 * @property bool $read_only
 * @property float $read_mb_s
 * @property float $setup_s
 * @property array<string, string>|null $options
 * @property string|null $silence why it did not answer when it was looked at last
 * @property int|null $free_bytes as it was then; null where that cannot be told
 * @property int|null $check_bytes_a_night budget for reading back; null: not planned
 * @property string|null $check_from HH:MM
 * @property string|null $check_until
 * @property string $check_zone
 */
final class Store extends Model implements Target
{
    use BelongsToGroups;

    protected $guarded = [];

    protected function casts(): array
    {
        return ['options' => 'array', 'read_only' => 'boolean', 'read_mb_s' => 'float', 'setup_s' => 'float'];
    }

    public static function sort(): string
    {
        return 'store';
    }

    public function whereabouts(): string
    {
        return $this->root;
    }

    public function originals(): array
    {
        return [];
    }
}

<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * @property int $id
 * @property int $set_id
 * @property string $kind
 * @property bool $doubts
 * @property array<string, int|float|string> $figures
 * @property string $words
 */
final class SetSign extends Model
{
    protected $table = 'signs';

    protected $guarded = [];

    public $timestamps = false;

    protected function casts(): array
    {
        return ['doubts' => 'boolean', 'figures' => 'array'];
    }
}

<?php

declare(strict_types=1);

namespace App\Kinds\Items\Erased;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use InvalidArgumentException;

/**
 * Personal data that had to be erased since sets were made of it, and must not come back out of them unnoticed: an item by what it is,
 * or all that names an address.
 *
 * @property int $id
 * @property string $what ADDRESS or ITEM
 * @property string $value an address in small letters, or an identity in hex (see ItemSort::identityOf())
 * @property string $reason
 * @property string $actor who said so
 * @property CarbonImmutable $created_at
 */
final class ErasedThing extends Model
{
    public const ADDRESS = 'address';

    public const ITEM = 'item';

    protected $table = 'erased_things';

    protected $guarded = [];

    protected function casts(): array
    {
        return ['created_at' => 'immutable_datetime'];
    }

    /** @throws InvalidArgumentException if it is none */
    public static function address(string $text): string
    {
        $address = mb_strtolower(trim($text));
        if (preg_match('/^[^\s@<>",;]{1,100}@[^\s@<>",;]{1,200}$/uD', $address) !== 1) {
            throw new InvalidArgumentException("\"$text\" is no address. Write it as ada@mail.example.");
        }

        return $address;
    }
}

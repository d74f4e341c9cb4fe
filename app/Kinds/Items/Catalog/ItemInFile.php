<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

/** An item that stands in the content of a file. */
final readonly class ItemInFile
{
    /** Of a file with several objects of a calendar: the offset is the number of one of them. */
    public const OBJECT = 'object';

    /**
     * @param  string  $identity  see ItemSort::identityOf()
     * @param  string  $form  of MboxForm, or OBJECT; '' where its bytes stand there as they are
     */
    public function __construct(
        public string $identity,
        public int $offset,
        public int $length,
        public string $form,
        public ItemRow $row,
    ) {
    }
}

@foreach ($item->details->wrong as $wrong)
    <dt class="attention">Odd</dt>
    <dd class="attention">{{ $wrong }}</dd>
@endforeach

@props(['lines'])
<dl {{ $attributes->class('facts') }}>
    @foreach ($lines as $line)
        <dt>{{ ucfirst($line->check) }}</dt>
        <dd @class(['attention' => $line->isFailed(), 'muted' => ! $line->isFailed() && ! $line->isNote()])>{{ $line->detail }}</dd>
    @endforeach
</dl>

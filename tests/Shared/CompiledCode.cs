using System.Reflection;
using System.Reflection.Emit;

namespace NeatCrate.Testing;

/// <summary>Looks into compiled code, so that no way of writing a call hides it.</summary>
internal static class CompiledCode
{
    private static readonly Dictionary<short, OpCode> OpCodesByValue = typeof(OpCodes).GetFields(BindingFlags.Public | BindingFlags.Static)
        .Select(f => (OpCode)f.GetValue(null)!).ToDictionary(o => o.Value);

    /// <summary>All methods and constructors of an assembly.</summary>
    public static IEnumerable<MethodBase> Methods(Assembly assembly) => assembly.GetTypes()
        .SelectMany(t => t.GetMembers(BindingFlags.Public | BindingFlags.NonPublic | BindingFlags.Static | BindingFlags.Instance | BindingFlags.DeclaredOnly)).OfType<MethodBase>();

    /// <summary>The types that a method calls, holds, takes, gives, and that its own type derives from.</summary>
    public static IEnumerable<Type> Known(MethodBase method)
    {
        IEnumerable<Type?> held = method.GetMethodBody()?.LocalVariables.Select(l => l.LocalType) ?? [];
        return Called(method).Select(c => c.DeclaringType).Concat(held).Concat(method.GetParameters().Select(p => p.ParameterType))
            .Append((method as MethodInfo)?.ReturnType).Append(method.DeclaringType!.BaseType).Concat(method.DeclaringType.GetInterfaces()).OfType<Type>().SelectMany(Parts);
    }

    /// <summary>The type that a nested one stands in, or itself.</summary>
    public static Type Outermost(Type type) => type.DeclaringType is { } outer ? Outermost(outer) : type;

    /// <summary>The folder of a type: what its namespace has beyond the assembly's own; null for none.</summary>
    public static string? FolderOf(Type type, string root) => type.Namespace is { } name && name.StartsWith(root + ".", StringComparison.Ordinal) ? name[(root.Length + 1)..] : null;

    /// <summary>The methods that a method calls, read from its compiled code (ECMA-335, partition III).</summary>
    public static IEnumerable<MethodBase> Called(MethodBase method)
    {
        var code = method.GetMethodBody()?.GetILAsByteArray() ?? [];
        for (var at = 0; at < code.Length;)
        {
            var value = code[at] == 0xFE ? unchecked((short)(0xFE00 | code[at + 1])) : code[at];
            var operation = OpCodesByValue[value];
            at += operation.Size;
            if (operation.OperandType is OperandType.InlineMethod or OperandType.InlineTok)
            {
                MemberInfo? member = null;
                try
                {
                    member = method.Module.ResolveMember(
                        BitConverter.ToInt32(code, at), method.DeclaringType!.IsGenericType ? method.DeclaringType.GetGenericArguments() : null, method.IsGenericMethod ? method.GetGenericArguments() : null);
                }
                catch (ArgumentException)
                {
                    // A token of a type or a field.
                }
                if (member is MethodBase called)
                {
                    yield return called;
                }
            }
            at += operation.OperandType switch
            {
                OperandType.InlineNone => 0,
                OperandType.ShortInlineBrTarget or OperandType.ShortInlineI or OperandType.ShortInlineVar => 1,
                OperandType.InlineVar => 2,
                OperandType.InlineI8 or OperandType.InlineR => 8,
                OperandType.InlineSwitch => 4 + (4 * BitConverter.ToInt32(code, at)),
                _ => 4,
            };
        }
    }

    private static IEnumerable<Type> Parts(Type type) => type.HasElementType ? Parts(type.GetElementType()!) : type.IsGenericType ? type.GetGenericArguments().SelectMany(Parts).Append(type) : [type];
}
